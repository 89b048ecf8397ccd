"""Names people give: one line of what can be printed, and what of it can name a file."""

from __future__ import annotations

from ...core.signal.errors import ParameterError


def one_line(text: str, what: str, longest: int) -> str:
    """The name with every run of white space made one blank, or ParameterError."""
    name = " ".join(text.split())
    if not 1 <= len(name) <= longest or not name.isprintable():
        raise ParameterError(f"{what} has 1 to {longest} characters that can be seen.")
    return name


LONGEST_FILE_NAME = 200  # bytes; systems take 255, and names beside it are longer


def file_name(name: str) -> str:
    """A name as that of a file that any system can save; one that is too long loses what is before its ending."""
    kept = "".join("-" if letter in '/\\:*?"<>|' else letter for letter in name if letter.isprintable())
    stem, dot, ending = kept.rpartition(".")
    room = LONGEST_FILE_NAME - len((dot + ending).encode())
    if not dot or room < 1 or len(ending) > 8:
        return kept.encode()[:LONGEST_FILE_NAME].decode(errors="ignore")
    return stem.encode()[:room].decode(errors="ignore") + dot + ending
