"""Fetching from the web for one document (RFC 9110), through httpx2."""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from threading import Lock, Timer
from typing import Final, NamedTuple
from urllib.parse import urljoin

import httpx2

from fleetquill.deadline import asked, heed, until
from fleetquill.errors import FleetQuillError, LimitError, PolicyError, SourceError, Where
from fleetquill.intake.addresses import public_address
from fleetquill.policy import Policy, Resource, is_web
from fleetquill.unpacking import unzipped

SIDE_BY_SIDE: Final = 8
MOST_REDIRECTS: Final = 10
PORTS: Final = {"http": 80, "https": 443}
GZIP: Final = 16 + zlib.MAX_WBITS
CODINGS: Final = {"gzip": GZIP, "x-gzip": GZIP, "deflate": zlib.MAX_WBITS}  # RFC 9110 §8.4


class Origin(NamedTuple):
    """Whom an address speaks to (RFC 6454 §4)."""

    scheme: str
    host: str
    port: int


def origin_of(address: str) -> Origin:
    """The origin of an address of the web, as the one reads it who asks; raises SourceError where it is none."""
    try:
        url = httpx2.URL(address)
        return Origin(url.scheme, url.host, url.port or PORTS[url.scheme])
    except (httpx2.InvalidURL, ValueError, KeyError) as error:
        raise SourceError("The address is not one of the web.", where=Where(address)) from error


class Web:
    """Fetches for one document, each address once, within the policy's limits.

    `headers` and `cookies` go to the origin of the page that was asked for, which `page` names, and to no other.
    """

    def __init__(self, policy: Policy, headers: Mapping[str, str], cookies: Mapping[str, str], page: str = "") -> None:
        self._policy = policy
        self._headers = headers
        self._cookies = cookies
        self._own = origin_of(page) if page else None
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

        ask = asked()

        def fetch(address: str) -> None:
            try:
                with until(ask):
                    self.get(address)
            except FleetQuillError:
                return  # said where the document asks for it

        with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
            list(pool.map(fetch, wanted))

    def content_type(self, address: str) -> str:
        return self._types.get(address, "")

    def _allow(self, address: str, first: str) -> Origin:
        """The origin of an address that may be asked; every request comes by here, those of redirects too."""
        where = Where(first)
        if not is_web(address):
            raise PolicyError(f"The address leads on to '{address}', which is not on the web.", where=where)
        policy = self._policy
        if not policy.network:
            raise PolicyError(
                "The policy does not let documents read from the web.",
                where=where,
                remedy="Use Policy(network=True), or --network on the command line.",
            )
        origin = origin_of(address)
        named = f"{origin.host}:{origin.port}"
        place = f"'{origin.host}' at port {origin.port}"
        if policy.hosts and origin.host not in policy.hosts and named not in policy.hosts:
            raise PolicyError(f"The policy does not let documents read from {place}.", where=where)
        if policy.strangers and not policy.hosts and origin.port not in PORTS.values():
            raise PolicyError(f"The policy does not let documents of strangers read from {place}.", where=where)
        if len(self._kept) >= policy.resources:
            raise LimitError(f"The document asks for more than {policy.resources} addresses.", where=where)
        return origin

    def _fetch(self, first: str) -> Resource:
        heed()
        address = first
        gained: dict[str, str] = {}  # cookies, on the way
        for _ in range(MOST_REDIRECTS):
            origin = self._allow(address, first)
            answer = self._ask(address, origin, gained, first)
            if isinstance(answer, Resource):
                return answer
            address, set_on_the_way = answer
            same = is_web(address) and origin_of(address) == origin
            gained = gained | set_on_the_way if same else {}
        raise SourceError("The address leads in circles.", where=Where(first))

    def _ask(
        self, address: str, origin: Origin, gained: Mapping[str, str], first: str
    ) -> Resource | tuple[str, dict[str, str]]:
        """What is there, or where it is said to be and the cookies that were set."""
        policy, own = self._policy, origin == self._own
        # without the environment for strangers: a proxy would look names up by itself
        client = httpx2.Client(
            timeout=policy.timeout, headers=self._headers if own else None,
            cookies={**(self._cookies if own else {}), **gained}, trust_env=not policy.strangers,
        )  # fmt: skip
        whole = Timer(policy.timeout, client.close)  # however slowly it trickles in
        whole.daemon = True
        whole.start()
        try:
            request = self._request(client, address, origin, first)
            with client, closing(client.send(request, stream=True)) as response:
                if response.is_redirect:
                    return urljoin(address, response.headers.get("location", "")), dict(response.cookies)
                if response.is_error:
                    what = f"The server answers {response.status_code} {response.reason_phrase}."
                    raise SourceError(what, where=Where(first))
                content = self._content(response, first)
                self._types[first] = response.headers.get("content-type", "")
                return Resource(address, content)
        except (httpx2.HTTPError, httpx2.InvalidURL, OSError, RuntimeError, ValueError) as error:
            if isinstance(error, httpx2.TimeoutException) or not whole.is_alive():
                raise SourceError(
                    f"The server does not answer within {policy.timeout:g} s.",
                    where=Where(first), remedy="Try again, or allow it more time.",
                ) from error  # fmt: skip
            reason = str(error) or type(error).__name__
            raise SourceError(f"The address cannot be fetched ({reason}).", where=Where(first)) from error
        finally:
            whole.cancel()

    def _request(self, client: httpx2.Client, address: str, origin: Origin, first: str) -> httpx2.Request:
        """What is asked of whom. For strangers a name is looked up once, and what was found is whom we ask."""
        url = httpx2.URL(address)
        headers = {"accept-encoding": "gzip, deflate"}
        if not self._policy.strangers or self._policy.hosts:
            return client.build_request("GET", url, headers=headers)
        headers["host"] = url.netloc.decode("ascii")
        found = url.copy_with(host=public_address(origin.host, origin.port, first))
        return client.build_request(
            "GET", found, headers=headers, extensions={"sni_hostname": url.raw_host.decode("ascii")}
        )

    def _content(self, response: httpx2.Response, address: str) -> bytes:
        """The body, whose size is limited as it comes and as it is unpacked."""
        parts: list[bytes] = []
        size = 0
        for part in response.iter_raw():
            size += len(part)
            if size > self._policy.file_size:
                raise LimitError("The file is larger than the policy allows.", where=Where(address))
            parts.append(part)
        content = b"".join(parts)
        coding = response.headers.get("content-encoding", "").strip().lower()
        if coding in ("", "identity"):
            return content
        if coding not in CODINGS:
            raise SourceError(
                f"The server answers in the coding '{coding}', which was not asked for.", where=Where(address)
            )
        return unzipped(content, self._policy.file_size, Where(address), window=CODINGS[coding])
