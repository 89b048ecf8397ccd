"""Signing in."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, String
from apiflask.validators import Length


class SignInIn(Schema):
    code = String(required=True, validate=Length(1, 200))


class SignedInOut(Schema):
    needed = Boolean(required=True, metadata={"description": "whether this server lets anybody in without a code"})
    signed_in = Boolean(required=True)
    name = String(required=True, metadata={"description": "of the code this browser came in with"})
    may_change = Boolean(required=True, metadata={"description": "false for one that may only listen"})
