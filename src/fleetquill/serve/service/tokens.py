"""Who may ask a service: bearer tokens (RFC 6750), of which a file keeps the hashes."""

from __future__ import annotations

import hashlib
import hmac
import secrets
import tomllib
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.errors import DataError, Where, meant, shown
from fleetquill.tree.files import read_text

TABLE: Final = "tokens"
NAMES: Final = ("sha256", "documents", "sources", "per_minute")
SOURCES: Final = ("html", "markdown", "data", "address")  # of documents that are sent


class Holder(NamedTuple):
    """Someone who may ask: for the documents that are named, or for all where None are; with the sources of their own
    that are named, or with all that the service takes; so many times a minute (None: as the service lets everybody)."""

    name: str
    sha256: str = ""
    documents: tuple[str, ...] | None = None
    sources: tuple[str, ...] | None = None
    per_minute: int | None = None

    def may_ask_for(self, document: str) -> bool:
        return self.documents is None or document in self.documents

    def may_send(self, source: str) -> bool:
        return self.sources is None or source in self.sources


class Tokens:
    """The holders of tokens. A token has 256 random bits, so that its plain hash tells nothing of it."""

    def __init__(self, holders: Sequence[Holder]) -> None:
        self.holders = tuple(holders)

    @classmethod
    def read(cls, path: Path, known: Sequence[str]) -> Tokens:
        """The tokens of a TOML file: a table for each holder, `[tokens.shop]`, with `sha256`, and with `documents`
        where it may not ask for all, `sources` of its own likewise (none, where only `documents` are named), and
        `per_minute`. `known` are the documents that there are. Raises DataError."""
        where = Where(str(path))
        try:
            said = tomllib.loads(read_text(path, "file"))
        except tomllib.TOMLDecodeError as error:
            raise DataError(f"This is no TOML: {error}.", where=where) from error
        table = said.get(TABLE)
        if not isinstance(table, dict) or set(said) != {TABLE}:
            raise DataError(
                "A file of tokens has a table for each, such as '[tokens.shop]', and nothing else.", where=where
            )
        return cls([_holder(name, given, known, where) for name, given in table.items()])

    def holder_of(self, token: str) -> Holder | None:
        """Whose token it is; every one is compared, so that the time tells nothing."""
        hashed = hash_of(token)
        found = [holder for holder in self.holders if hmac.compare_digest(holder.sha256.encode(), hashed.encode())]
        return found[0] if found else None


def _holder(name: str, given: Any, known: Sequence[str], where: Where) -> Holder:
    if not isinstance(given, dict):
        raise DataError(f"'{TABLE}.{name}' is {shown(given)}, not a table.", where=where)
    unknown = next((one for one in given if one not in NAMES), None)
    if unknown is not None:
        raise DataError(f"'{TABLE}.{name}.{unknown}' is nothing.", where=where, remedy=meant(unknown, NAMES))
    hashed, per_minute = given.get("sha256"), given.get("per_minute")
    if not isinstance(hashed, str) or len(hashed) != 64 or set(hashed.lower()) - set("0123456789abcdef"):
        raise DataError(f"'{TABLE}.{name}.sha256' is not 64 hexadecimal digits.", where=where)
    if per_minute is not None and (isinstance(per_minute, bool) or not isinstance(per_minute, int) or per_minute < 1):
        raise DataError(f"'{TABLE}.{name}.per_minute' is {shown(per_minute)}, not a number from 1 on.", where=where)
    documents = _names(name, "documents", given, known, where)
    sources = _names(name, "sources", given, SOURCES, where)
    if sources is None and documents is not None:
        sources = ()
    return Holder(name, hashed.lower(), documents, sources, per_minute)


def _names(name: str, key: str, given: Mapping[str, Any], known: Sequence[str], where: Where) -> tuple[str, ...] | None:
    """The names that a holder is limited to; None where nothing is said of it."""
    said = given.get(key)
    if said is None:
        return None
    if not isinstance(said, list) or not all(isinstance(one, str) for one in said):
        raise DataError(f"'{TABLE}.{name}.{key}' is not a list of names.", where=where)
    lost = next((one for one in said if one not in known), None)
    if lost is not None:
        raise DataError(
            f"'{TABLE}.{name}.{key}' names '{lost}', which there is not.", where=where, remedy=meant(lost, known)
        )
    return tuple(said)


def hash_of(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "surrogatepass")).hexdigest()


def new_token() -> str:
    return secrets.token_urlsafe(32)
