"""Tune passes by name: the shipped ones and the user's own."""

from __future__ import annotations

from typing import Any

from ...core.signal.errors import ParameterError
from ..folder.workspace import Workspace

# name: (one sentence on when to use it, settings); the values are common practice, no source
_LATER = {"within_cents": 0.0, "movement": 1.0, "scoop": 1.0, "fall": 1.0}  # what passes of release 0.1 leave out
SHIPPED: dict[str, tuple[str, dict[str, Any]]] = {
    "First light": (
        "For a rough mix in a hurry: everything near its note at once, vibrato left alone.",
        {"pull": 0.9, "drift": 0.7, "vibrato": 1.0, "rounding": "scale", "beyond_cents": 0.0, "keep_edited": True},
    ),
    "Clear lead": (
        "For a lead that should sound sung, not corrected: most of the way, drift calmed, vibrato as it is.",
        {"pull": 0.75, "drift": 0.6, "vibrato": 1.0, "rounding": "scale", "beyond_cents": 8.0, "keep_edited": True},
    ),
    "Near enough": (
        "For a good singer: only what is further off than ten cents comes, and no nearer than that.",
        {
            "pull": 1.0,
            "within_cents": 10.0,
            "drift": 1.0,
            "vibrato": 1.0,
            "rounding": "scale",
            "beyond_cents": 0.0,
            "keep_edited": True,
        },
    ),
    "Woven stack": (
        "For doubles and harmonies that must lie tight under the lead: fully on the note, little movement left.",
        {"pull": 1.0, "drift": 0.3, "vibrato": 0.6, "rounding": "scale", "beyond_cents": 0.0, "keep_edited": True},
    ),
}


def list_passes(workspace: Workspace) -> list[dict[str, Any]]:
    """The shipped passes, then the user's."""
    shipped = [{"name": n, "hint": hint, "shipped": True, **_LATER, **s} for n, (hint, s) in SHIPPED.items()]
    own = [{"name": n, "hint": "", "shipped": False, **_LATER, **s} for n, s in workspace.passes.all().items()]
    return shipped + own


def save_pass(workspace: Workspace, name: str, settings: dict[str, Any]) -> None:
    """Save settings under a name; the shipped names are taken."""
    name = name.strip()
    if not name or name in SHIPPED:
        raise ParameterError("Give the pass a name of its own; the shipped names are taken.")
    workspace.passes.save(name, settings)


def remove_pass(workspace: Workspace, name: str) -> None:
    """Remove one of the user's passes."""
    if name in SHIPPED:
        raise ParameterError("The shipped passes cannot be removed.")
    workspace.passes.remove(name)
