"""Who may do what: every operation of the API needs a role, and the three roles include each other.

Looking needs a viewer, changing an installer, unless an operation says otherwise: so that one which says nothing is
never open to more people than it should be.
"""

from __future__ import annotations

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.security import SessionAuth

from underhood_server.accounts.models import Role, User

RANK = {Role.VIEWER: 0, Role.INSTALLER: 1, Role.OWNER: 2}
LOOKS = ("GET", "HEAD", "OPTIONS")
REFUSALS = {
    Role.INSTALLER: "You may look at everything here, and change nothing. An owner of the workshop can change that.",
    Role.OWNER: "Only an owner of the workshop may do this.",
}


class AtLeast(SessionAuth):
    """A session of somebody with a role or a higher one; None: a viewer's to look, an installer's to change."""

    def __init__(self, role: Role | None) -> None:
        super().__init__()
        self.role = role

    def authenticate(self, request: HttpRequest, key: str | None) -> User | None:
        user = super().authenticate(request, key)
        if not isinstance(user, User):
            return None
        needed = self.role or (Role.VIEWER if request.method in LOOKS else Role.INSTALLER)
        if RANK[Role(user.role)] < RANK[needed]:
            raise HttpError(403, REFUSALS[needed])
        return user


BY_METHOD = AtLeast(None)
VIEWER, INSTALLER, OWNER = AtLeast(Role.VIEWER), AtLeast(Role.INSTALLER), AtLeast(Role.OWNER)
