"""Passwords of servers: held in memory for as long as the program runs, and written nowhere."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from oat_tide.core.trouble import Trouble

if TYPE_CHECKING:
    import sqlalchemy as sa

_KEPT: dict[str, str] = {}
_WRITTEN: set[str] = set()
"""Addresses that the user wrote, and no plan."""
FROM_ENVIRONMENT = "OAT_TIDE_PASSWORD"
MEANT_FOR = "OAT_TIDE_PASSWORD_FOR"
"""The user and server that the password of the environment is meant for: user@server, or user@server:port."""
_SECRETS = ("password", "passwd", "pwd", "sslpassword")
"""What an address calls a password where it stands behind its question mark."""


def is_address(place: str) -> bool:
    """Whether a place is the address of a server."""
    return "://" in place


def bare(address: str) -> str:
    """The address without its password, which is kept for this run of the program.

    Raises:
        Trouble: it is no address.
    """
    url = _url(address)
    secrets = {name: said for name, said in url.query.items() if name.lower() in _SECRETS}
    given = url.password or next((said for said in secrets.values() if isinstance(said, str)), None)
    place = url._replace(password=None).difference_update_query(list(secrets)).render_as_string()
    if given:
        _KEPT[place] = str(given)
    _WRITTEN.add(place)
    return place


def without_secrets(place: str) -> str:
    """A place of a plan, of which no password is kept or given away: that of an address is dropped."""
    if not is_address(place):
        return place
    url = _url(place)
    secrets = [name for name in url.query if name.lower() in _SECRETS]
    return url._replace(password=None).difference_update_query(secrets).render_as_string()


def keep(place: str, password: str) -> None:
    """Keep the password of a server for this run of the program."""
    _KEPT[place] = password


def full(place: str) -> sa.URL:
    """The address with the password that was given or stands in the environment for it, and a driver."""
    url = _url(place)
    password = _KEPT.get(place) or _of_environment(place, url)
    if password:
        url = url.set(password=password)
    if url.drivername in ("postgresql", "postgres"):
        url = url.set(drivername="postgresql+psycopg")
    return url


def _of_environment(place: str, url: sa.URL) -> str | None:
    """The password of the environment, where it is meant for this user and server.

    It is meant for those that the environment names; where it names none, for an address that the user wrote.
    An address in a plan that was made elsewhere draws it nowhere.
    """
    password, meant = os.environ.get(FROM_ENVIRONMENT), os.environ.get(MEANT_FOR)
    if not password:
        return None
    if meant is None:
        return password if place in _WRITTEN else None
    # What is asked for behind the question mark is where the driver goes.
    hosts = url.query.get("host", url.host or "localhost"), url.query.get("port", str(url.port or ""))
    user = url.query.get("user", url.username or "")
    if not all(isinstance(each, str) for each in (*hosts, user)):
        return None
    server = f"{user}@{hosts[0]}"
    return password if meant in (server, f"{server}:{hosts[1]}") else None


def scrubbed(place: str, text: str) -> str:
    """A message of a server or driver without the password."""
    for password in (_KEPT.get(place), os.environ.get(FROM_ENVIRONMENT)):
        if password:
            text = text.replace(password, "…")
    return text


def _url(address: str) -> sa.URL:
    # It loads slowly, and only databases need it.
    import sqlalchemy as sa

    try:
        return sa.make_url(address)
    except (sa.exc.ArgumentError, ValueError) as error:
        # The message of the library would quote the address, password and all.
        raise Trouble(
            "This is no address of a database. Write it as in postgresql://user@server/database."
        ) from error
