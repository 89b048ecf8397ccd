"""What the rule of a derived track makes of its lead: another voice, linked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ...core.document.content import Content, apply_to_content
from ...core.document.items.links import Link
from ...core.document.linked.three_way import bases_of
from ...core.document.operations.on_derived import MakeDouble, MakeHarmony
from ...core.document.operations.registry import Operation, Scene, parse_operation
from ...core.document.operations.rules.voices.derived_edits import sung_by
from ...core.document.voices.left_out import left_out
from ...core.signal.errors import ParameterError
from ..session.desk import Standing
from ..session.keys import keys_mark

_LINK = "f0001"


def rule_of(operation: Mapping[str, Any]) -> MakeDouble | MakeHarmony:
    """The rule that plain data stands for."""
    asked = parse_operation(operation)
    if not isinstance(asked, (MakeDouble, MakeHarmony)):
        raise ParameterError("A track is made of another one as a double or as a harmony.")
    return asked


def rule_data(rule: Operation) -> dict[str, Any]:
    """A rule as plain data."""
    return {name: list(value) if isinstance(value, tuple) else value for name, value in rule.to_data().items()}


def made_of(lead: Standing, rule: Operation) -> Content:
    """What a rule makes of a lead: its content, another voice of it, linked."""
    if lead.content.choices:
        raise ParameterError("Another voice is made of a version, not of a comp; make a version of the comp first.")
    base = replace(lead.content, links={})
    change = rule.change(Scene(base, lead.keys, lead.analysis))
    sung = sung_by(base, lead.analysis, rule)
    change = {**change, **left_out(base, sung, lead.analysis.duration_s)}
    given = apply_to_content(base, change)
    keys = keys_mark(lead.keys) if isinstance(rule, MakeHarmony) and rule.steps else ""
    link = Link(_LINK, lead.track.id, str(lead.step_id), 0.0, 0.0, 0.0, False, "scale", rule_data(rule),
                base=bases_of(given), keys=keys)  # fmt: skip
    return apply_to_content(given, {_LINK: (None, link)})
