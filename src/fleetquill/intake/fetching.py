"""Fetching from the web for one document (RFC 9110), through httpx."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from threading import Lock
from typing import Final
from urllib.parse import urljoin, urlsplit

import httpx

from fleetquill.errors import FleetQuillError, LimitError, PolicyError, SourceError, Where
from fleetquill.policy import Policy, Resource, is_web

SIDE_BY_SIDE: Final = 8
MOST_REDIRECTS: Final = 10


class Web:
    """Fetches for one document, each address once, within the policy's limits."""

    def __init__(self, policy: Policy, headers: Mapping[str, str], cookies: Mapping[str, str]) -> None:
        self._policy = policy
        self._headers = headers
        self._cookies = cookies
        self._kept: dict[str, Resource | FleetQuillError] = {}
        self._types: dict[str, str] = {}
        self._lock = Lock()

    def get(self, address: str) -> Resource:
        """What is at an address; the error of the first try where there was one."""
        with self._lock:
            found = self._kept.get(address)
        if found is None:
            try:
                found = self._fetch(address)
            except FleetQuillError as error:
                found = error
            with self._lock:
                self._kept[address] = found
        if isinstance(found, FleetQuillError):
            raise found
        return found

    def prefetch(self, addresses: Iterable[str]) -> None:
        wanted = [a for a in dict.fromkeys(addresses) if a not in self._kept]

        def fetch(address: str) -> None:
            try:
                self.get(address)
            except FleetQuillError:
                return  # said where the document asks for it

        with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
            list(pool.map(fetch, wanted))

    def content_type(self, address: str) -> str:
        return self._types.get(address, "")

    def _allow(self, address: str, first: str) -> None:
        where = Where(first)
        if not is_web(address):
            raise PolicyError(f"The address leads on to '{address}', which is not on the web.", where=where)
        if not self._policy.network:
            raise PolicyError(
                "The policy does not let documents read from the web.",
                where=where,
                remedy="Use Policy(network=True), or --network on the command line.",
            )
        host = urlsplit(address).hostname or ""
        if self._policy.hosts and host not in self._policy.hosts:
            raise PolicyError(f"The policy does not let documents read from '{host}'.", where=where)
        if len(self._kept) >= self._policy.resources:
            raise LimitError(f"The document asks for more than {self._policy.resources} addresses.", where=where)

    def _fetch(self, first: str) -> Resource:
        address = first
        cookies = dict(self._cookies)
        for _ in range(MOST_REDIRECTS):
            self._allow(address, first)
            try:
                with httpx.Client(timeout=self._policy.timeout, cookies=cookies, headers=self._headers) as client, \
                        client.stream("GET", address) as response:  # fmt: skip
                    if response.is_redirect:
                        cookies |= dict(response.cookies)
                        address = urljoin(address, response.headers.get("location", ""))
                        continue
                    if response.is_error:
                        raise SourceError(
                            f"The server answers {response.status_code} {response.reason_phrase}.", where=Where(first)
                        )
                    content = self._content(response, first)
                    self._types[first] = response.headers.get("content-type", "")
                    return Resource(address, content)
            except httpx.TimeoutException as error:
                raise SourceError(
                    f"The server does not answer within {self._policy.timeout:g} s.",
                    where=Where(first), remedy="Try again, or allow it more time.",
                ) from error  # fmt: skip
            except (httpx.HTTPError, httpx.InvalidURL, ValueError) as error:
                reason = str(error) or type(error).__name__
                raise SourceError(f"The address cannot be fetched ({reason}).", where=Where(first)) from error
        raise SourceError("The address leads in circles.", where=Where(first))

    def _content(self, response: httpx.Response, address: str) -> bytes:
        parts: list[bytes] = []
        size = 0
        for part in response.iter_bytes():
            size += len(part)
            if size > self._policy.file_size:
                raise LimitError("The file is larger than the policy allows.", where=Where(address))
            parts.append(part)
        return b"".join(parts)
