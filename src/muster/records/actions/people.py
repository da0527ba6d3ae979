"""Who writes: a local account while Muster serves on loopback only."""

from __future__ import annotations

import getpass

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractUser

from muster.core.errors import MusterError

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
        raise MusterError("a name is needed", where="name", want="it stands beside each reading")
    account.first_name = name.strip()[:60]
    account.save(update_fields=["first_name"])
