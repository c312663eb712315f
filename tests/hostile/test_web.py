"""Whom we ask on the web, what we tell them, how long we wait. Nothing here leaves this machine: a hook sees to it."""

import gzip
import http.server
import ipaddress
import socket
import threading
import time
import zlib

import pytest

import fleetquill as fq
from fleetquill.intake.addresses import is_public


@pytest.fixture(autouse=True)
def nothing_leaves_this_machine(monkeypatch):
    """Every connection beyond loopback is refused before it is made, and fails the test."""
    connect, beyond = socket.socket.connect, []

    def checked(self, address):
        if self.family in (socket.AF_INET, socket.AF_INET6) and not ipaddress.ip_address(address[0]).is_loopback:
            beyond.append(address)
            raise OSError("beyond this machine")
        return connect(self, address)

    monkeypatch.setattr(socket.socket, "connect", checked)
    yield
    assert beyond == []


class Site(http.server.BaseHTTPRequestHandler):
    """Answers by its path and notes what it was told."""

    protocol_version = "HTTP/1.1"

    def do_GET(self):
        told = (self.server.server_port, self.path, self.headers.get("X-Key"), self.headers.get("Cookie"))
        self.server.told.append(told)
        path, _, query = self.path.partition("?")
        if path == "/to":
            self._answer(b"", status=302, Location=query, **{"Set-Cookie": "given=1"})
        elif path == "/slow-body":
            self._answer(b"", length=1000)
            self._trickle(b"x" * 200)
        elif path == "/slow-head":
            self._trickle(b"HTTP/1.1 200 OK\r\nX: " + b"y" * 200)
        elif path == "/bomb":
            packer = zlib.compressobj(9, zlib.DEFLATED, 31)
            content = b"".join(packer.compress(b" " * 1_000_000) for _ in range(100)) + packer.flush()
            self._answer(content, **{"Content-Encoding": "gzip"})
        elif path == "/packed":
            self._answer(gzip.compress(b"<p>packed"), **{"Content-Encoding": "gzip"})
        elif path == "/odd":
            self._answer(b"??", **{"Content-Encoding": "br"})
        else:
            other = self.server.other
            self._answer(f"<p>here<img src=/p.png><img src='http://127.0.0.1:{other}/q.png'>".encode())

    def _answer(self, content, status=200, length=None, **headers):
        self.send_response(status)
        for name, value in {"Content-Type": "text/html", **headers}.items():
            self.send_header(name, value)
        self.send_header("Content-Length", str(len(content) if length is None else length))
        self.end_headers()
        self.wfile.write(content)

    def _trickle(self, content):
        try:
            for byte in content:
                self.wfile.write(bytes((byte,)))
                self.wfile.flush()
                time.sleep(0.1)
        except OSError:
            pass

    def log_message(self, *_):
        pass


@pytest.fixture
def sites():
    """Two sites, that know one another."""
    both = [http.server.ThreadingHTTPServer(("127.0.0.1", 0), Site) for _ in range(2)]
    told = []
    for site, other in zip(both, reversed(both), strict=True):
        site.told, site.other = told, other.server_port
        threading.Thread(target=site.serve_forever, daemon=True).start()
    yield both
    for site in both:
        site.shutdown()
        site.server_close()


def address(site, path="/page"):
    return f"http://127.0.0.1:{site.server_port}{path}"


def ask(source, **policy):
    press = fq.Press(policy=fq.Policy(network=True, **policy), headers={"X-Key": "k"}, cookies={"s": "1"})
    return press.compose(source)


def test_headers_and_cookies_go_to_the_origin_of_the_page_alone(sites):
    own, other = sites
    ask(address(own))
    assert set(own.told) == {
        (own.server_port, "/page", "k", "s=1"), (own.server_port, "/p.png", "k", "s=1"),
        (other.server_port, "/q.png", None, None),
    }  # fmt: skip


def test_they_do_not_follow_to_another_origin(sites):
    own, other = sites
    ask(address(own, f"/to?{address(other)}"))
    assert [told[2:] for told in own.told if told[0] == own.server_port and told[1].startswith("/to")] == [("k", "s=1")]
    assert {told[2:] for told in own.told if told[0] == other.server_port} == {(None, None)}


def test_a_cookie_given_on_the_way_goes_on_within_its_origin(sites):
    own, _ = sites
    ask(address(own, "/to?/page"))
    assert (own.server_port, "/page", "k", "s=1; given=1") in own.told


def test_a_local_document_tells_no_one(sites):
    own, _ = sites
    ask(fq.Manuscript.from_html(f"<img src='{address(own, '/p.png')}'>"))
    ask(fq.Manuscript.from_html("<img src='p.png'>", base=address(own, "/folder/")))
    assert own.told == [(own.server_port, "/p.png", None, None), (own.server_port, "/folder/p.png", "k", "s=1")]


@pytest.mark.parametrize("path", ["/slow-body", "/slow-head"])
def test_the_time_is_that_of_the_whole_request(sites, path):
    start = time.monotonic()
    with pytest.raises(fq.SourceError, match=r"does not answer within 0\.5 s"):
        ask(address(sites[0], path), timeout=0.5)
    assert time.monotonic() - start < 10


def test_sizes_are_of_what_is_unpacked(sites):
    with pytest.raises(fq.LimitError, match="unpacks to more"):
        ask(address(sites[0], "/bomb"), file_size=10_000_000)
    assert "packed" in ask(address(sites[0], "/packed")).pages[0].text
    with pytest.raises(fq.SourceError, match="coding 'br'"):
        ask(address(sites[0], "/odd"))


@pytest.mark.parametrize(
    ("hosts", "strangers", "asked", "said"),
    [
        (["127.0.0.1"], False, True, ""),
        (["127.0.0.1"], True, True, ""),
        (["127.0.0.1:{port}"], True, True, ""),
        (["127.0.0.1:9"], False, False, "read from '127.0.0.1' at port"),
        (["reedwater.example"], True, False, "read from '127.0.0.1' at port"),
        ([], True, False, "of strangers read from '127.0.0.1' at port"),
    ],
)
def test_hosts_and_ports_that_may_be_asked(sites, hosts, strangers, asked, said):
    own, _ = sites
    hosts = [host.format(port=own.server_port) for host in hosts]
    if asked:
        assert "here" in ask(address(own), hosts=hosts, strangers=strangers).pages[0].text
        return
    with pytest.raises(fq.PolicyError, match=said):
        ask(address(own), hosts=hosts, strangers=strangers)
    assert own.told == []


def test_redirects_are_checked_as_well(sites):
    own, other = sites
    with pytest.raises(fq.PolicyError, match=f"at port {other.server_port}"):
        ask(address(own, f"/to?{address(other)}"), hosts=[f"127.0.0.1:{own.server_port}"])


PRIVATE = [
    "127.0.0.1", "2130706433", "0x7f.1", "0x7f000001", "127.1", "0177.0.0.1", "0", "0.0.0.0", "10.0.0.1", "172.16.0.9",
    "192.168.1.1", "169.254.169.254", "100.64.0.1", "224.0.0.1", "240.0.0.1", "255.255.255.255", "192.0.2.1", "localhost",
    "[::1]", "[::]", "[fe80::1]", "[fc00::1]", "[fd12::1]", "[ff02::1]", "[::ffff:127.0.0.1]", "[::ffff:7f00:1]",
    "[64:ff9b::7f00:1]", "[64:ff9b::a00:1]", "[2002:7f00:1::]", "[2001:0:7f00:1::]", "[::127.0.0.1]", "[fec0::1]",
    "[2001:db8::1]", "user:word@127.0.0.1", "127.0.0.1.", "①②⑦.0.0.1", "127.0.0.1%00.example", "a\\@127.0.0.1",
]  # fmt: skip


@pytest.mark.parametrize("host", PRIVATE)
def test_strangers_may_not_lead_into_private_networks(host):
    edition = ask(fq.Manuscript.from_html(f"<img src='http://{host}/key.png'>"), strangers=True, timeout=3)
    assert len(edition.remarks) == 1 and "is not shown" in edition.remarks[0].message


@pytest.mark.parametrize("text", ["93.184.216.34", "2606:2800:220:1:248:1893:25c8:1946", "::ffff:93.184.216.34"])
def test_public_addresses_are_told_from_others(text):
    assert is_public(ipaddress.ip_address(text))


def test_a_name_that_stands_for_a_public_and_a_private_address_is_private(monkeypatch):
    def both(host, port, **_):
        return [(socket.AF_INET, 1, 6, "", ("93.184.216.34", port)), (socket.AF_INET, 1, 6, "", ("10.0.0.1", port))]

    monkeypatch.setattr(socket, "getaddrinfo", both)
    with pytest.raises(fq.PolicyError, match="private network"):
        ask("http://reedwater.example/", strangers=True)


def test_a_name_is_looked_up_once(monkeypatch, sites):
    """What was checked is what is asked, whatever the name stands for a moment later."""
    looked_up = []

    def turns(host, port, **_):
        looked_up.append(host)
        return [(socket.AF_INET, 1, 6, "", ("93.184.216.34" if len(looked_up) == 1 else "127.0.0.1", port))]

    asked = []

    def connect(address, *_, **__):
        asked.append(address)
        raise OSError("not from here")

    monkeypatch.setattr(socket, "getaddrinfo", turns)
    monkeypatch.setattr(socket, "create_connection", connect)
    with pytest.raises(fq.SourceError):
        ask("http://reedwater.example/", strangers=True)
    assert looked_up == ["reedwater.example"] and asked == [("93.184.216.34", 80)]


@pytest.mark.parametrize(
    ("options", "timeout", "most"),
    [([], 20.0, 0.0), (["--strangers"], 5.0, 8.0), (["--strangers", "--time", "0", "--timeout", "3"], 3.0, 0.0), (["--time", "2"], 20.0, 2.0)],
)  # fmt: skip
def test_the_command_line_leaves_to_the_profile_what_it_is_not_told(monkeypatch, options, timeout, most):
    from fleetquill.cli import press as command

    made = []
    monkeypatch.setattr(command._Work, "do", lambda work: made.append(work.engine.policy))
    command.press.main(["page.html", *options], standalone_mode=False)
    assert [(policy.timeout, policy.time) for policy in made] == [(timeout, most)]
