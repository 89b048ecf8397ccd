"""Operations on borrows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .kinds import choice, ids, one_id
from .operation import Operation
from .rules.voices import borrow_edits

LENGTHS = ("as here", "as there")


@dataclass(frozen=True, kw_only=True)
class BorrowWord(Operation, type="borrow", label="Borrow", rule=borrow_edits.borrow, needs="loan"):
    """Let the same word from another place or take sound in the place of notes."""

    note_ids: Sequence[str] = ids("Ids of the notes to be replaced, which follow each other", "n0001")
    from_track: str = one_id("Id of the track to borrow from", "t1")
    from_note_ids: Sequence[str] = ids("Ids of the notes that are borrowed", "n0002")
    length: str = choice(LENGTHS, "How long it lasts: as what it replaces, or as it was sung", default="as here")


@dataclass(frozen=True, kw_only=True)
class GiveBack(Operation, type="give_back", label="Give back", rule=borrow_edits.give_back, needs="content"):
    """Let what was sung sound again in the place of what is borrowed."""

    borrow_ids: Sequence[str] = ids("Ids of the borrows; all when empty", "w0001", default=())
