"""Signing in with a code, and out again."""

from __future__ import annotations

import math
from typing import Any

from apiflask import APIBlueprint
from flask import Response, abort, current_app, jsonify, request

from ...services.access.codes import TICKET_S, Code
from ...services.access.guesses import Guesses
from ..schemas.access import SignedInOut, SignInIn
from .gate import COOKIE, Gate
from .security import asked_now

sign_in_routes = APIBlueprint("access", __name__, tag="Access")


def _gate() -> Gate:
    return current_app.extensions["gate"]


def _state(code: Code | None) -> dict[str, Any]:
    needed = _gate().codes is not None
    return {"needed": needed, "signed_in": code is not None or not needed, "name": code.name if code else "",
            "may_change": not needed or (code is not None and code.kind == "full")}  # fmt: skip


@sign_in_routes.get("/sign-in")
@sign_in_routes.output(SignedInOut)
def get_sign_in() -> dict[str, Any]:
    """Whether this browser is signed in, and needs to be."""
    return _state(_gate().holder(asked_now()))


@sign_in_routes.post("/sign-in")
@sign_in_routes.input(SignInIn)
@sign_in_routes.output(SignedInOut)
def post_sign_in(json_data: dict[str, Any]) -> Response | dict[str, Any]:
    """Sign in with a code; five wrong ones a minute from one address are all that is listened to."""
    codes, guesses = _gate().codes, _guesses()
    if codes is None:
        return _state(None)
    address = request.remote_addr or ""
    wait_s = guesses.wait_s(address)
    if wait_s > 0:
        answer = jsonify({"message": f"Too many wrong codes; wait {math.ceil(wait_s)} s."})
        answer.status_code, answer.headers["Retry-After"] = 429, str(math.ceil(wait_s))
        return answer
    code = codes.of(json_data["code"])
    if code is None:
        guesses.wrong(address)
        abort(401, "This is not a code of this server's.")
    answer = jsonify(_state(code))
    answer.set_cookie(COOKIE, codes.ticket(code), max_age=TICKET_S, path="/", httponly=True, samesite="Strict",
                      secure=request.is_secure)  # fmt: skip
    return answer


@sign_in_routes.delete("/sign-in")
@sign_in_routes.output({}, status_code=204)
def delete_sign_in() -> Response:
    """Sign this browser out."""
    answer = Response(status=204)
    answer.delete_cookie(COOKIE, path="/")
    return answer


def _guesses() -> Guesses:
    return current_app.extensions["guesses"]
