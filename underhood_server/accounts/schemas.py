"""What the session operations take and give."""

from ninja import Schema
from pydantic import Field

from underhood_server.api.shapes import In


class LogIn(In):
    """A name and a password."""

    username: str = Field(max_length=150)
    password: str = Field(max_length=1000)


class Session(Schema):
    """Who is logged in, if anybody; whether the demo may be entered."""

    username: str | None
    workshop: str | None
    demo: bool
