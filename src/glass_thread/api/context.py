"""What the views of one application share."""

from __future__ import annotations

from flask import current_app

from ..services.tuned_sound import TunedSound
from ..services.workspace import Workspace


def workspace() -> Workspace:
    """The application's data folder."""
    return current_app.extensions["workspace"]


def sound() -> TunedSound:
    """The application's renderer."""
    return current_app.extensions["sound"]
