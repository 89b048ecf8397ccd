"""What the views of one application share."""

from __future__ import annotations

from flask import current_app

from ..services.folder.workspace import Workspace
from ..services.history.previews import Previews
from ..services.session.desk import Desk
from ..services.session.news import News
from ..services.sound.marks_ahead import MarksAhead
from ..services.sound.turns import Turns
from ..services.work.foreman import Foreman


def desk() -> Desk:
    """What the application keeps at hand of its tracks."""
    return current_app.extensions["desk"]


def workspace() -> Workspace:
    """The application's data folder."""
    return desk().workspace


def foreman() -> Foreman:
    """Who gives the application's long work out."""
    return current_app.extensions["foreman"]


def turns() -> Turns:
    """Which sound is made first."""
    return current_app.extensions["turns"]


def marks_ahead() -> MarksAhead:
    """Who finds the pitch marks of an opened track."""
    return current_app.extensions["marks_ahead"]


def news() -> News:
    """What is new in a song, for every window that shows it."""
    return current_app.extensions["news"]


def previews() -> Previews:
    """What is tried out and not taken."""
    return current_app.extensions["previews"]
