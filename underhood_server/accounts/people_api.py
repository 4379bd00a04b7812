"""Operations on people: who works here, invitations, one's own password, where everybody is logged in."""

from __future__ import annotations

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Status

from underhood_server.accounts import people
from underhood_server.accounts.api import same_site, session_of
from underhood_server.accounts.models import Invitation, Role, SignIn, User
from underhood_server.accounts.permission import OWNER, VIEWER
from underhood_server.accounts.schemas import (
    InvitationAsked,
    InvitationLink,
    InvitationOut,
    Joining,
    NewPassword,
    People,
    PersonOut,
    RoleIn,
    SecretIn,
    Session,
    SignedOut,
    SignInOut,
)
from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import Id

router = Router()


def _me(request: HttpRequest) -> User:
    assert isinstance(request.user, User)
    return request.user


def _person(request: HttpRequest, person_id: int) -> User:
    return get_object_or_404(User, pk=person_id, workshop=workshop_of(request), is_active=True)


def _person_out(person: User, you: bool) -> PersonOut:
    browsers = list(person.sign_ins.all())
    return PersonOut(
        id=person.pk,
        username=person.username,
        role=Role(person.role),
        you=you,
        seen_at=max((each.seen_at for each in browsers), default=person.last_login),
        browsers=len(browsers),
    )


def _invitation_out(made: Invitation) -> dict[str, object]:
    return {"id": made.pk, "role": made.role, "created_at": made.created_at, "expires_at": made.expires_at}


@router.get("/people", response=People)
def list_people(request: HttpRequest) -> People:
    """Everybody who works here, and open invitations."""
    workshop, me = workshop_of(request), _me(request)
    rows = workshop.people.filter(is_active=True).prefetch_related("sign_ins").order_by("username")
    return People(
        people=[_person_out(each, each.pk == me.pk) for each in rows],
        invitations=[InvitationOut.model_validate(_invitation_out(each)) for each in people.open_invitations(workshop)],
    )


@router.put("/people/{person_id}", response=PersonOut, auth=OWNER)
def change_person(request: HttpRequest, person_id: Id, payload: RoleIn) -> PersonOut:
    """Let somebody do more or less."""
    person = people.change_role(_person(request, person_id), payload.role)
    return _person_out(person, person.pk == _me(request).pk)


@router.delete("/people/{person_id}", response={204: None}, auth=OWNER)
def remove_person(request: HttpRequest, person_id: Id) -> Status[None]:
    """Somebody works here no more."""
    people.send_away(_person(request, person_id))
    return Status(204, None)


@router.post("/invitations", response={201: InvitationLink}, auth=OWNER)
def create_invitation(request: HttpRequest, payload: RoleIn) -> Status[InvitationLink]:
    """Invite somebody: the link is told this once, and works once within a week."""
    made, secret = people.invite(workshop_of(request), payload.role)
    return Status(201, InvitationLink.model_validate({**_invitation_out(made), "secret": secret}))


@router.post("/invitations/asked", response=InvitationAsked, auth=None)
def read_invitation(request: HttpRequest, payload: SecretIn) -> InvitationAsked:
    """What an invitation is to."""
    same_site(request)
    found = people.invitation_of(payload.secret)
    return InvitationAsked(workshop=found.workshop.name, role=Role(found.role))


@router.post("/invitations/accepted", response={201: Session}, auth=None)
def accept_invitation(request: HttpRequest, payload: Joining) -> Status[Session]:
    """Join, and be logged in."""
    same_site(request)
    return Status(201, session_of(people.accept(request, payload.secret, payload.username, payload.password)))


@router.delete("/invitations/{invitation_id}", response={204: None}, auth=OWNER)
def revoke_invitation(request: HttpRequest, invitation_id: Id) -> Status[None]:
    """Take an invitation back."""
    people.revoke(get_object_or_404(Invitation, pk=invitation_id, workshop=workshop_of(request)))
    return Status(204, None)


@router.put("/password", response={204: None}, auth=VIEWER)
def change_password(request: HttpRequest, payload: NewPassword) -> Status[None]:
    """Change one's own password; every other browser is logged out."""
    people.change_password(request, _me(request), payload.old, payload.password)
    return Status(204, None)


@router.get("/sign-ins", response=list[SignInOut])
def list_sign_ins(request: HttpRequest) -> list[SignInOut]:
    """Where one is logged in; an owner sees where everybody is."""
    me = _me(request)
    rows = SignIn.objects.select_related("user").filter(user__workshop=workshop_of(request))
    if me.role != Role.OWNER:
        rows = rows.filter(user=me)
    return [
        SignInOut(
            id=each.pk,
            username=each.user.username,
            address=each.address,
            browser=each.browser,
            started_at=each.started_at,
            seen_at=each.seen_at,
            this_one=each.session_key == request.session.session_key,
        )
        for each in rows
    ]


@router.delete("/sign-ins", response=SignedOut, auth=VIEWER)
def sign_out_elsewhere(request: HttpRequest) -> SignedOut:
    """Log out everywhere else."""
    others = _me(request).sign_ins.exclude(session_key=request.session.session_key)
    return SignedOut(count=people.sign_out(others))


@router.delete("/sign-ins/{sign_in_id}", response={204: None}, auth=VIEWER)
def sign_out_one(request: HttpRequest, sign_in_id: Id) -> Status[None]:
    """Log one browser out: one's own, or an owner anybody's."""
    me = _me(request)
    rows = SignIn.objects.filter(user__workshop=workshop_of(request))
    if me.role != Role.OWNER:
        rows = rows.filter(user=me)
    people.sign_out(rows.filter(pk=get_object_or_404(rows, pk=sign_in_id).pk))
    return Status(204, None)
