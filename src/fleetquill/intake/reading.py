"""Reading what a document asks for: files and addresses of the web, as far as the policy lets it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from fleetquill.errors import PolicyError, Where
from fleetquill.policy import Policy, Resource
from fleetquill.tree.base import Base, absolute

if TYPE_CHECKING:
    from fleetquill.intake.fetching import Web


class WebReader:
    """Reads for one document. Each address of the web is fetched once.

    `page` is the address of the document, whose origin gets the headers and cookies; `homes` are what it may
    always read: its folder, and the files that it was asked to be made from.
    """

    def __init__(
        self,
        policy: Policy,
        headers: Mapping[str, str] | None = None,
        cookies: Mapping[str, str] | None = None,
        page: str = "",
    ) -> None:
        self.policy = policy
        self.files: list[Path] = []
        self.homes: Sequence[Path] = ()
        self._page = page
        self._headers = dict(headers or {})
        self._cookies = dict(cookies or {})
        self._web: Web | None = None

    @property
    def web(self) -> Web:
        if self._web is None:
            from fleetquill.intake.fetching import Web

            self._web = Web(self.policy, self._headers, self._cookies, self._page)
        return self._web

    def read(self, url: str, base: Base) -> Resource:
        """The resource at an address; raises an error of the family where it may not or cannot be read."""
        if url.startswith("data:"):
            return self.policy.data(url)
        address = absolute(url, base)
        if isinstance(address, str):
            return self.web.get(address)
        return self.policy.read_file(self.path(url, address))

    def path(self, url: str, base: Base) -> Path:
        """The file at an address; the web has none."""
        address = absolute(url, base)
        if isinstance(address, str):
            raise PolicyError("Rows are read from files only.", where=Where(address))
        path = self.policy.path(url, address, self.homes)
        self.policy.check(path)
        self.files.append(path)
        return path

    def prefetch(self, urls: Iterable[str], base: Base) -> None:
        """Fetches addresses of the web side by side; what fails says so when it is read."""
        wanted: list[str] = []
        for url in urls:
            with suppress(PolicyError):
                address = absolute(url, base)
                if isinstance(address, str) and not url.startswith("data:"):
                    wanted.append(address)
        if wanted and self.policy.network:
            self.web.prefetch(wanted)
