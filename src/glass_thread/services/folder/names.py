"""Names people give: one line of what can be printed, and what of it can name a file."""

from __future__ import annotations

from ...core.signal.errors import ParameterError


def one_line(text: str, what: str, longest: int) -> str:
    """The name with every run of white space made one blank, or ParameterError."""
    name = " ".join(text.split())
    if not 1 <= len(name) <= longest or not name.isprintable():
        raise ParameterError(f"{what} has 1 to {longest} characters that can be seen.")
    return name


def file_name(name: str) -> str:
    """A name as that of a file that any system can save."""
    return "".join("-" if letter in '/\\:*?"<>|' else letter for letter in name if letter.isprintable())
