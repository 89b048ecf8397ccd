"""The language of words: chosen, or guessed from the words themselves."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import pyphen

# What the guess chooses from: languages that are sung a lot, those of other scripts, and whoever has patterns.
_GUESSED = (
    "ca", "cs", "da", "de", "el", "en", "es", "et", "fi", "fr", "hr", "hu", "it", "ja", "ko", "lt", "lv", "nl", "no",
    "pl", "pt", "ro", "ru", "sk", "sl", "sv", "tr", "uk", "zh",
)  # fmt: skip
_UNSURE, _DEFAULT = 0.5, "en"


def known_languages() -> list[str]:
    """The codes that may be chosen, of ISO 639-1 as far as there is one."""
    patterns = {code.split("_")[0] for code in pyphen.LANGUAGES}
    return sorted({*patterns, *_GUESSED})


@lru_cache(maxsize=64)
def language_of(text: str) -> str:
    """The language of a text by its letters (M. Lui and T. Baldwin, "langid.py", ACL 2012); English when that is not
    to be told."""
    if not text.strip():
        return _DEFAULT
    code, chance = _identifier().classify(text)
    return code if chance >= _UNSURE else _DEFAULT


@lru_cache(maxsize=1)
def _identifier() -> Any:
    from py3langid.langid import MODEL_FILE, LanguageIdentifier  # takes most of a second, and few need it

    identifier = LanguageIdentifier.from_model_file(MODEL_FILE, norm_probs=True)
    identifier.set_languages(list(_GUESSED))
    return identifier
