"""What every edit operation is: a frozen record with a name, a label and the rule that it follows."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import MISSING, dataclass, field, fields
from typing import Any, ClassVar, Literal

import numpy as np

from ...signal.errors import ParameterError
from ...signal.types import Analysis, Floats, Reading
from ...song.keys import KeyMap
from ..content import Content, ContentChange
from ..items.links import LeadNow
from ..linked.origins import Origin
from ..notes import by_hand
from ..rows import Row
from ..words import Loan
from .kinds import Kind, printable, refuse

Needs = Literal["notes", "sound", "readings", "content", "lines", "rows", "loan", "lead", "origins"]


@dataclass(frozen=True)
class Scene:
    """What an operation acts on: a content, the keys, what was found in the recording, pitch read again, moments of the
    track in seconds that notes may be brought to, the versions that a comp chooses among, by id, a loan, a lead, and
    what links lead to as it stands, by id."""

    content: Content
    keys: KeyMap
    analysis: Analysis
    readings: Mapping[str, Reading] = field(default_factory=dict)
    lines: Floats = field(default_factory=lambda: np.zeros(0))
    rows: Mapping[str, Row] = field(default_factory=dict)
    loan: Loan | None = None
    lead: LeadNow | None = None
    origins: Mapping[str, Origin] = field(default_factory=dict)


@dataclass(frozen=True)
class Operation:
    """Base of all operations; a subclass names its type, its label in the list of steps, its rule and what that needs,
    and whether it is a hand's or (not `by_hand`) a pass's over what is named.

    A rule takes the notes, or the whole content, with the keys and, when it needs the sound, what was found in it; the
    fields follow as keyword arguments.  It returns the change and leaves what it was given as it is.
    """

    type: ClassVar[str]
    label: ClassVar[str]
    rule: ClassVar[Callable[..., ContentChange]]
    needs: ClassVar[Needs]
    by_hand: ClassVar[bool]

    def __init_subclass__(
        cls, *, type: str, label: str, rule: Callable[..., ContentChange], needs: Needs, by_hand: bool = True
    ) -> None:
        cls.type, cls.label, cls.rule, cls.needs, cls.by_hand = type, label, staticmethod(rule), needs, by_hand
        OPERATIONS[type] = cls

    def change(self, scene: Scene) -> ContentChange:
        """What the operation does to a scene.

        Raises
        ------
        ParameterError, NotFoundError
            With a sentence that says what is wrong; the scene is never changed.
        """
        arguments = {one.name: getattr(self, one.name) for one in fields(self)}
        content, keys, analysis = scene.content, scene.keys, scene.analysis
        given: dict[str, tuple[Any, ...]] = {
            "notes": (content.notes, keys),
            "sound": (content.notes, keys, analysis),
            "readings": (content.notes, keys, analysis, scene.readings),
            "content": (content, keys, analysis),
            "lines": (content, scene.lines, analysis),
            "rows": (content, scene.rows),
            "loan": (content, scene.loan),
            "lead": (content, keys, analysis, scene.lead),
            "origins": (content, keys, analysis, scene.origins, scene.rows),
        }
        change = self.rule(*given[self.needs], **arguments)
        return by_hand(change) if self.by_hand else change

    def to_data(self) -> dict[str, Any]:
        """As plain data, the way it arrives from outside."""
        return {"type": self.type, **{one.name: getattr(self, one.name) for one in fields(self)}}


OPERATIONS: dict[str, type[Operation]] = {}


def kind_of(one: Any) -> Kind:
    """The kind a field was declared with."""
    return one.metadata["kind"]


def parse_operation(data: object) -> Operation:
    """The operation that plain data from outside stands for: ``{"type": "tune", "note_ids": [...], ...}``.

    Raises
    ------
    ParameterError
        If the type or a field is unknown, missing or not of its kind; the sentence names it.
    """
    if not isinstance(data, Mapping):
        raise refuse("operation", "an object with a “type”", data)
    name = data.get("type")
    if not isinstance(name, str) or name not in OPERATIONS:
        raise refuse("type", f"one of: {', '.join(OPERATIONS)}", name)
    operation = OPERATIONS[name]
    known = {one.name: one for one in fields(operation)}
    unknown = [key for key in data if key not in known and key != "type"]
    if unknown:
        takes = ", ".join(known) or "no fields"
        raise ParameterError(f"The edit “{name}” has no field “{printable(str(unknown[0]))}”; it takes: {takes}.")
    given = {}
    for key, one in known.items():
        if key in data and not (data[key] is None and one.default is None):
            given[key] = kind_of(one).check(key, data[key])
        elif one.default is MISSING:
            raise ParameterError(f"The edit “{name}” needs “{key}”.")
    return operation(**given)
