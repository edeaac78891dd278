"""Passwords and tokens of servers: held in memory for as long as the program runs, and written nowhere."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable
from typing import TYPE_CHECKING
from urllib.parse import quote, quote_plus

from oat_tide.core.user_error import UserError
from oat_tide.system.log import hide

if TYPE_CHECKING:
    import sqlalchemy as sa

_KEPT: dict[str, str] = {}
_WRITTEN: set[str] = set()
"""Addresses that the user wrote, and no plan."""
FROM_ENVIRONMENT = "OAT_TIDE_PASSWORD"
MEANT_FOR = "OAT_TIDE_PASSWORD_FOR"
"""The user and server that the password of the environment is meant for: user@server, or user@server:port."""
_HIDDEN: dict[str, dict[str, str]] = {}
"""By address, what stood behind its question mark and is secret."""
_SECRET = re.compile(
    r"pass(word|wd|phrase)?$|passw|pwd|secret|token|credential|signature|api_?key|access_?key|private_?key|^sig$"
    r"|^key$|^auth$|authorization",
    re.I,
)
"""What an address calls a secret behind its question mark, or in a string of settings there."""
_SETTING = re.compile(r"(?P<name>[^=;]*)=(?P<said>\{(?:[^}]|\}\})*\}|[^;]*)(?:;|$)")
"""One of them; what stands in braces may hold a semicolon."""
_PASSWORD = re.compile(r"passw|pwd|^pass$", re.I)
"""Those among them that are the password of the user."""
_SETTINGS = "odbc_connect"
"""What holds settings of its own, as in Driver=…;Server=…;PWD=…."""


def is_address(place: str) -> bool:
    """Whether a place is the address of a server."""
    return "://" in place


def bare(address: str) -> str:
    """The address without its secrets, which are kept for this run of the program.

    Raises:
        UserError: it is no address.
    """
    url = _url(address)
    plain, hidden = _parted(url)
    place = plain.render_as_string()
    named = next((said for name, said in hidden.items() if _PASSWORD.search(name)), None)
    given = url.password or (named if isinstance(named, str) else None)
    if given:
        _KEPT[place] = str(given)
    if hidden:
        _HIDDEN[place] = hidden
    _WRITTEN.add(place)
    return place


def without_secrets(place: str) -> str:
    """A place of a plan, of which no secret is kept or given away: those of an address are dropped."""
    return _parted(_url(place))[0].render_as_string() if is_address(place) else place


def _parted(url: sa.URL) -> tuple[sa.URL, dict[str, str]]:
    """An address without its password and what else is secret in it, and that, by name."""
    hidden = {
        name: said if isinstance(said, str) else said[0]
        for name, said in url.query.items()
        if _SECRET.search(name)
    }
    plain = url._replace(password=None).difference_update_query(list(hidden))
    settings = url.query.get(_SETTINGS)
    if isinstance(settings, str):
        kept = _SETTING.sub(lambda each: "" if _SECRET.search(each["name"].strip()) else each[0], settings)
        if kept != settings:
            hidden[_SETTINGS] = settings
            plain = plain.update_query_dict({_SETTINGS: kept})
    return plain, hidden


def keep(place: str, password: str) -> None:
    """Keep the password of a server for this run of the program."""
    _KEPT[place] = password


def full(place: str) -> sa.URL:
    """The address with the password that was given or stands in the environment for it, and a driver."""
    url = _url(place)
    hidden = _HIDDEN.get(place, {})
    password = _KEPT.get(place) or _of_environment(place, url)
    url = url.update_query_dict({name: said for name, said in hidden.items() if not _PASSWORD.search(name)})
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
    """A message of a server or driver without the secrets of its address."""
    held = (_KEPT.get(place), os.environ.get(FROM_ENVIRONMENT), *_told(_HIDDEN.get(place, {})))
    return _without(held, text)


def scrub(text: str) -> str:
    """A text for the log, without any secret that is known."""
    secrets = (*_KEPT.values(), os.environ.get(FROM_ENVIRONMENT))
    return _without((*secrets, *(each for hidden in _HIDDEN.values() for each in _told(hidden))), text)


def _told(hidden: dict[str, str]) -> list[str]:
    """The secrets themselves, those within settings alone."""
    found = [said for name, said in hidden.items() if name != _SETTINGS]
    for each in _SETTING.finditer(hidden.get(_SETTINGS, "")):
        if _SECRET.search(each["name"].strip()):
            found.append(each["said"].strip().strip("{}"))
    return found


def _without(secrets: Iterable[str | None], text: str) -> str:
    for each in secrets:
        if each:
            for form in {each, quote(each), quote_plus(each)}:
                text = text.replace(form, "…")
    return text


hide.append(scrub)


def _url(address: str) -> sa.URL:
    # It loads slowly, and only databases need it.
    import sqlalchemy as sa

    try:
        return sa.make_url(address)
    except (sa.exc.ArgumentError, ValueError) as error:
        # The message of the library would quote the address, password and all.
        raise UserError(
            "This is no address of a database. Write it as in postgresql://user@server/database."
        ) from error
