"""Server-sent events: what is new in a song."""

from __future__ import annotations

import json
from collections.abc import Iterator

from apiflask import APIBlueprint
from flask import Response

from .context import news

news_routes = APIBlueprint("news", __name__, tag="News")


@news_routes.get("/songs/<song_id>/news")
@news_routes.doc(responses={200: {
    "description": "Events whose data are the turn of the song's log and the head of every version by track",
    "content": {"text/event-stream": {}},
}})  # fmt: skip
def get_news(song_id: str) -> Response:
    """How a song stands, now and whenever that changes, whoever changed it."""
    told = news().of(song_id)

    def events() -> Iterator[str]:
        for one in told:
            yield ": still here\n\n" if one is None else f"data: {json.dumps(one)}\n\n"

    return Response(events(), mimetype="text/event-stream", headers={"Cache-Control": "no-store"})
