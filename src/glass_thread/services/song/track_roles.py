"""What part a recording has, by what its file is called."""

from __future__ import annotations

import itertools
import re
from collections.abc import Collection

ROLES = ("lead", "double", "harmony", "backing")
# Words of file names by role, the first that fits; common practice, no source.
_SAID = (
    ("harmony", r"(backing|background|back)(vocals?|vox|voc|voices?)|bg?vs?|bvox|harm(s|ony|onies)?|hrm|choir"),
    ("double", r"doubles?|dbl|dub|doubled?track|dt|adt"),
    ("backing", r"backing|backtrack|instrumental|instr?|karaoke|playback|band|beat|music|minusone"),
    ("lead", r"lead|leadvox|leadvocals?|ld|main|mainvox|lv"),
)  # fmt: skip


def role_of(name: str, roles_there: Collection[str]) -> str:
    """The role that a file's name says; else lead for the first vocal of a song and double for those after it."""
    words = re.findall(r"[a-z]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name).lower())
    pairs = [a + b for a, b in itertools.pairwise(words)]
    for role, said in _SAID:
        if any(re.fullmatch(said, word) for word in (*pairs, *words)):
            return role
    return "double" if "lead" in roles_there else "lead"
