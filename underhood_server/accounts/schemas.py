"""What the session operations take and give."""

from ninja import Schema


class LogIn(Schema):
    """A name and a password."""

    username: str
    password: str


class Session(Schema):
    """Who is logged in, if anybody; whether the demo may be entered."""

    username: str | None
    workshop: str | None
    demo: bool
