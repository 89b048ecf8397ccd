"""``glass-thread words``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..core.signal.errors import ParameterError
from ..formats.atomic import save
from ..services.files.words_file import syllable_rows, words_of_file
from ..services.lyrics.language import known_languages


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "words", help="lay words on the notes of a recording",
        description="Cut words into syllables and lay them on the notes of a recording: one line a phrase as sung; "
        "lines and found phrases need not be equal in number.",
    )  # fmt: skip
    parser.add_argument("source", type=Path, metavar="IN.wav")
    parser.add_argument("words", type=Path, metavar="WORDS.txt")
    parser.add_argument("--language", metavar="xx", help="code of ISO 639-1, as en (default: guessed from the words)")
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="write the syllables with their notes")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Lay them and say them, a line each."""
    if chosen.language is not None and chosen.language not in known_languages():
        raise ParameterError(f"Words cannot be cut in “{chosen.language}”; choose of {', '.join(known_languages())}.")
    words = words_of_file(chosen.source, chosen.words, chosen.language)
    rows = syllable_rows(words)
    if chosen.json:
        save(chosen.json, json.dumps({"syllables": rows}, ensure_ascii=False).encode())
    for row in rows:
        print(f"{row['start_s']:8.3f} {row['end_s']:8.3f}  {row['note_id']}  {row['text']}")
    unsung = len(words.syllables) - len(rows)
    left = f"; {unsung} are not sung" if unsung else ""
    print(f"{len(rows)} syllables on {words.notes} notes, language {words.language}{left}")
    return 0
