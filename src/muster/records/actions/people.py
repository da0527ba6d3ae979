"""Who writes: a local account while Muster serves on loopback only."""

from __future__ import annotations

import getpass
import hashlib
import secrets
from datetime import timedelta

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import MusterError, Refused
from muster.records.models import LinkRow

LOCAL_NAME = "local"


def local_account() -> AbstractUser:
    """The account of whoever sits at this machine, made on first use."""
    users = get_user_model().objects
    account = users.filter(username=LOCAL_NAME).first()
    if account is None:
        account = users.create(username=LOCAL_NAME, first_name=_machine_name())
        account.set_unusable_password()
        account.save()
    return account


def _machine_name() -> str:
    try:
        name = getpass.getuser()
    except (KeyError, OSError):
        name = ""
    return "" if name in ("", "root") else name.capitalize()[:60]


def name_account(account: AbstractUser, name: str) -> None:
    """Change the name that records show.

    Raises
    ------
    MusterError
        If the name is empty.
    """
    if not name.strip():
        raise MusterError("a name is needed", where="name", want="it is shown beside each reading")
    account.first_name = name.strip()[:60]
    account.save(update_fields=["first_name"])


LINK_HOURS = 1
OWNER = "owner"
"""The role of whoever holds a link: today all that there is."""


def new_link(role: str = OWNER) -> str:
    """A token that lets one browser in, once, within the hour; only its digest is kept."""
    token = secrets.token_urlsafe(24)
    LinkRow.objects.filter(ends_at__lt=timezone.now()).delete()
    LinkRow.objects.create(digest=_digest(token), role=role, ends_at=timezone.now() + timedelta(hours=LINK_HOURS))
    return token


def use_link(token: str) -> AbstractUser:
    """Who is let in by a token; it works no more after that.

    Raises
    ------
    Refused
        If there is no such token, it was used, or its hour is over.
    """
    used = LinkRow.objects.filter(digest=_digest(token), ends_at__gte=timezone.now()).delete()[0]
    if not used:
        raise Refused("this address has been used, or its hour is over", where="link", want="another: muster url")
    return local_account()


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
