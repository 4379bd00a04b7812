"""What the operations on people and log-ins take and give."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from underhood_server.accounts.models import Role
from underhood_server.api.shapes import In

Username = Annotated[str, Field(min_length=1, max_length=150)]
Password = Annotated[str, Field(max_length=1000)]
Secret = Annotated[str, Field(max_length=100)]


class LogIn(In):
    """A name and a password."""

    username: str = Field(max_length=150)
    password: Password


class Writing(Schema):
    """How the workshop writes numbers and dates (see `WorkshopSettings`)."""

    decimals: Literal["point", "comma"] = "point"
    dates: Literal["iso", "dmy", "mdy"] = "iso"


class Session(Schema):
    """Who is logged in, if anybody, and as what; whether the demo may be entered; how numbers are written there."""

    username: str | None
    workshop: str | None
    role: Role | None
    demo: bool
    writing: Writing = Writing()


class PersonOut(Schema):
    """Somebody of the workshop; `seen_at` is when they last used it, where that is known."""

    id: int
    username: str
    role: Role
    you: bool
    seen_at: datetime | None
    browsers: int


class InvitationOut(Schema):
    """An invitation that is open; its link was told when it was made."""

    id: int
    role: Role
    created_at: datetime
    expires_at: datetime


class People(Schema):
    """Everybody of the workshop, and who is invited."""

    people: list[PersonOut]
    invitations: list[InvitationOut]


class RoleIn(In):
    """What somebody may do."""

    role: Role


class InvitationLink(InvitationOut):
    """A new invitation with the secret of its link, which is told this once."""

    secret: str


class SecretIn(In):
    """The secret of a link."""

    secret: Secret


class InvitationAsked(Schema):
    """What an invitation is to."""

    workshop: str
    role: Role


class Joining(SecretIn):
    """An invitation accepted: with what name and password."""

    username: Username
    password: Password


class NewPassword(In):
    """One's own password, and what it is to be."""

    old: Password
    password: Password


class SignInOut(Schema):
    """A browser that is logged in."""

    id: int
    username: str
    address: str
    browser: str
    started_at: datetime
    seen_at: datetime
    this_one: bool


class SignedOut(Schema):
    """How many browsers were logged out."""

    count: int
