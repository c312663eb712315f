"""The standard security handler: what a locked file's strings and streams are enciphered with (ISO 32000-2 §7.6).

Reads RC4 of 40 to 128 bits, AES of 128 and 256 bits; writes AES of 256 bits (revision 6).
"""

from __future__ import annotations

import hashlib
import struct
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from fleetquill.errors import OptionError, SourceError, Where, meant
from fleetquill.pdf.objects import Name, Ref, text_bytes

if TYPE_CHECKING:
    from cryptography.hazmat.primitives.ciphers import Cipher

PADDING: Final = bytes.fromhex("28BF4E5E4E758A4164004E56FFFA01082E2E00B6D0683E802F0CA9FE6453697A")  # §7.6.4.3.2
LONGEST: Final = 127  # bytes of a password (§7.6.4.3.3)
ALL_BITS: Final = 0xFFFFFFFF
BLOCK: Final = 16
RIGHTS: Final = {  # what may be allowed, and its bits, from 1 on (§7.6.4.2, table 22)
    "print": (3, 12), "draft": (3,), "change": (4,), "copy": (5,), "comment": (6,), "fill": (9,), "arrange": (11,),
}  # fmt: skip
ALWAYS: Final = (7, 8, 10, *range(13, 33))  # bits that are set; 10: what is read aloud may always be


class Methods(NamedTuple):
    """How a file is locked: 'none', 'rc4', 'aes' (128 bits) or 'aes256' for streams, and for strings."""

    streams: str
    strings: str


class Lock:
    """The key of a file, and what it does."""

    def __init__(
        self,
        key: bytes,
        methods: Methods,
        *,
        metadata: bool = True,
        owner: bool = False,
        said: dict[str, Any] | None = None,
    ) -> None:
        self.key = key
        self._said = said or {}
        self.methods = methods
        self.metadata = metadata  # whether that is enciphered, too
        self.owner = owner  # whether the password was the owner's

    def entries(self) -> dict[str, Any]:
        """The encryption dictionary of a new lock."""
        return self._said

    def open_string(self, content: bytes, number: int, generation: int) -> bytes:
        return self._opened(content, self.methods.strings, number, generation)

    def open_stream(self, content: bytes, number: int, generation: int) -> bytes:
        return self._opened(content, self.methods.streams, number, generation)

    def _opened(self, content: bytes, method: str, number: int, generation: int) -> bytes:
        if method == "none":
            return content
        key = self.key if method == "aes256" else _object_key(self.key, number, generation, aes=method == "aes")
        if method == "rc4":
            return _rc4(key, content)
        whole = len(content) - len(content) % BLOCK
        if whole < 2 * BLOCK:
            return b""
        plain = _aes(key, content[:BLOCK], content[BLOCK:whole], closing=False)
        return plain[: -plain[-1]] if 1 <= plain[-1] <= BLOCK else plain

    def close(self, content: bytes, number: int, generation: int = 0) -> bytes:
        """A stream enciphered for an object. What is chance elsewhere comes from what it is, so that the same input
        gives the same file; it differs for each object and each key."""
        return self._closed(content, self.methods.streams, number, generation)

    def close_string(self, content: bytes, number: int, generation: int = 0) -> bytes:
        return self._closed(content, self.methods.strings, number, generation)

    def _closed(self, content: bytes, method: str, number: int, generation: int) -> bytes:
        if method == "none":
            return content
        key = self.key if method == "aes256" else _object_key(self.key, number, generation, aes=method == "aes")
        if method == "rc4":
            return _rc4(key, content)
        start = hashlib.sha256(self.key + struct.pack("<QQ", number, len(content)) + content).digest()[:BLOCK]
        fill = BLOCK - len(content) % BLOCK
        return start + _aes(key, start, content + bytes((fill,)) * fill, closing=True)


def lock_of(entries: dict[str, Any], identity: bytes, password: str | None, source: str) -> Lock:
    """The lock of a file whose encryption dictionary and first identifier are given. Raises SourceError where the
    password is none of its two, or what it is locked with is not known."""
    where = Where(source) if source else None
    if str(entries.get("Filter", "Standard")) != "Standard":
        raise SourceError(f"The file is locked by '{entries['Filter']}', which is not known.", where=where)
    version, revision = int(entries.get("V", 0)), int(entries.get("R", 2))
    if version not in (1, 2, 4, 5) or not 2 <= revision <= 6:
        raise SourceError(f"The file is locked in a way that is not known (version {version}).", where=where)
    metadata = entries.get("EncryptMetadata") is not False
    methods = _methods(entries, version)
    modern = revision >= 5
    for given in dict.fromkeys([_prepared(password or "", modern=modern), (password or "").encode("utf-8")]):
        found = _modern_key(entries, given, revision) if modern else _old_key(entries, given, identity, revision)
        if found is not None:
            return Lock(found[0], methods, metadata=metadata, owner=found[1])
    if password is None:
        raise SourceError("The file is locked.", where=where, remedy="Give its password.")
    raise SourceError("The password does not open the file.", where=where)


def _methods(entries: dict[str, Any], version: int) -> Methods:
    if version < 4:
        return Methods("rc4", "rc4")
    filters = entries.get("CF", {})
    kinds = {"V2": "rc4", "AESV2": "aes", "AESV3": "aes256"}

    def named(key: str) -> str:
        own = filters.get(entries.get(key, "Identity"), {})
        return kinds.get(str(own.get("CFM", "None")), "none")

    return Methods(named("StmF"), named("StrF"))


def _prepared(password: str, *, modern: bool) -> bytes:
    """The bytes of a password: UTF-8 after compatibility composition, or Latin letters in older files."""
    import unicodedata

    if modern:
        return unicodedata.normalize("NFKC", password).encode("utf-8", "replace")[:LONGEST]
    return password.encode("latin-1", "replace")


# ---- revisions 2 to 4 ----


def _old_key(entries: dict[str, Any], password: bytes, identity: bytes, revision: int) -> tuple[bytes, bool] | None:
    """The key, and whether the password was the owner's; None where it is neither's (§7.6.4.4.2 and §7.6.4.4.5)."""
    size = 5 if revision == 2 else min(16, max(5, int(entries.get("Length", 40)) // 8))
    if int(entries.get("V", 0)) == 4:
        size = 16
    key = _key_of_user(entries, password, identity, revision, size)
    if _is_user(entries, key, identity, revision):
        return key, False
    digest = hashlib.md5(_padded(password), usedforsecurity=False).digest()
    for _ in range(50 if revision >= 3 else 0):
        digest = hashlib.md5(digest, usedforsecurity=False).digest()
    user = bytes(entries["O"])[:32]
    for turn in range(19 if revision >= 3 else 0, -1, -1):
        user = _rc4(bytes(byte ^ turn for byte in digest[:size]), user)
    key = _key_of_user(entries, user, identity, revision, size)
    return (key, True) if _is_user(entries, key, identity, revision) else None


def _padded(password: bytes) -> bytes:
    return (password + PADDING)[:32]


def _key_of_user(entries: dict[str, Any], password: bytes, identity: bytes, revision: int, size: int) -> bytes:
    """Algorithm 2."""
    start = _padded(password) + bytes(entries["O"])[:32] + struct.pack("<I", int(entries["P"]) & ALL_BITS) + identity
    if revision >= 4 and entries.get("EncryptMetadata") is False:
        start += b"\xff\xff\xff\xff"
    digest = hashlib.md5(start, usedforsecurity=False).digest()
    for _ in range(50 if revision >= 3 else 0):
        digest = hashlib.md5(digest[:size], usedforsecurity=False).digest()
    return digest[:size]


def _is_user(entries: dict[str, Any], key: bytes, identity: bytes, revision: int) -> bool:
    """Algorithm 6."""
    if revision == 2:
        return _rc4(key, PADDING) == bytes(entries["U"])[:32]
    digest = hashlib.md5(PADDING + identity, usedforsecurity=False).digest()
    for turn in range(20):
        digest = _rc4(bytes(byte ^ turn for byte in key), digest)
    return digest == bytes(entries["U"])[:16]


def _object_key(key: bytes, number: int, generation: int, *, aes: bool) -> bytes:
    """Algorithm 1."""
    start = key + struct.pack("<I", number)[:3] + struct.pack("<I", generation)[:2] + (b"sAlT" if aes else b"")
    return hashlib.md5(start, usedforsecurity=False).digest()[: min(len(key) + 5, 16)]


# ---- revisions 5 and 6 ----


def _modern_key(entries: dict[str, Any], password: bytes, revision: int) -> tuple[bytes, bool] | None:
    """Algorithm 2.A."""
    user, owner = bytes(entries["U"])[:48], bytes(entries["O"])[:48]
    password = password[:LONGEST]
    hashed = _hash_6 if revision == 6 else _hash_5
    if hashed(password, owner[32:40], user) == owner[:32]:
        return _aes(hashed(password, owner[40:48], user), bytes(BLOCK), bytes(entries["OE"])[:32], closing=False), True
    if hashed(password, user[32:40], b"") == user[:32]:
        return _aes(hashed(password, user[40:48], b""), bytes(BLOCK), bytes(entries["UE"])[:32], closing=False), False
    return None


def _hash_5(password: bytes, salt: bytes, more: bytes) -> bytes:
    return hashlib.sha256(password + salt + more).digest()


def _hash_6(password: bytes, salt: bytes, more: bytes) -> bytes:
    """Algorithm 2.B."""
    digest = hashlib.sha256(password + salt + more).digest()
    turn = 0
    while True:
        block = (password + digest + more) * 64
        mixed = _aes(digest[:16], digest[16:32], block, closing=True)
        kind = (hashlib.sha256, hashlib.sha384, hashlib.sha512)[sum(mixed[:16]) % 3]
        digest = kind(mixed).digest()
        turn += 1
        if turn >= 64 and mixed[-1] <= turn - 32:
            return digest[:32]


class Wish(NamedTuple):
    """How a file is to be locked: the password that opens it, that of its owner, and what readers may do."""

    password: str = ""
    owner: str = ""
    allow: tuple[str, ...] = ()


def lock_wish(password: str | None, owner: str | None, allow: Sequence[str] | None) -> Wish | None:
    """What is asked for by two passwords and what is allowed; None for no lock. Raises OptionError where that cannot
    be."""
    if not password and not owner:
        if allow is not None:
            raise OptionError("What is allowed needs a password to hold.", remedy="Give an owner_password.")
        return None
    if allow is not None and not owner:
        raise OptionError(
            "Who opens the file with its only password may do everything.", remedy="Give an owner_password, too."
        )
    rights_of(tuple(RIGHTS) if allow is None else allow)
    return Wish(password or "", owner or "", tuple(RIGHTS) if allow is None else tuple(allow))


TURNS: Final = 100_000  # by which a key is drawn from a password


def new_lock(wish: Wish) -> Lock:
    """A lock of revision 6. What is chance elsewhere is drawn from the passwords, so that the same file comes from the
    same input. Raises OptionError for a right that is not known."""
    rights = rights_of(wish.allow)
    user = _prepared(wish.password, modern=True)
    owner = _prepared(wish.owner or wish.password, modern=True)
    secret = b"%d:%b:%b" % (len(user), user, owner)
    drawn = hashlib.pbkdf2_hmac("sha512", secret, b"%d" % rights, TURNS, 72)
    key, user_salt, owner_salt, end = drawn[:32], drawn[32:48], drawn[48:64], drawn[64:68]
    said_user = _hash_6(user, user_salt[:8], b"") + user_salt
    said_owner = _hash_6(owner, owner_salt[:8], said_user) + owner_salt
    nothing = bytes(BLOCK)
    said = struct.pack("<iI", rights, ALL_BITS) + b"Tadb" + end
    entries = {
        "Filter": Name("Standard"), "V": 5, "R": 6, "Length": 256, "P": rights,
        "CF": {"StdCF": {"CFM": Name("AESV3"), "AuthEvent": Name("DocOpen"), "Length": 32}},
        "StmF": Name("StdCF"), "StrF": Name("StdCF"), "U": said_user, "O": said_owner,
        "UE": _aes(_hash_6(user, user_salt[8:], b""), nothing, key, closing=True),
        "OE": _aes(_hash_6(owner, owner_salt[8:], said_user), nothing, key, closing=True),
        "Perms": _aes(key, nothing, said, closing=True),  # one block: nothing is chained
    }  # fmt: skip
    return Lock(key, Methods("aes256", "aes256"), said=entries)


def closed_strings(value: Any, lock: Lock, number: int) -> Any:
    """A value of an object with its strings enciphered; what signs a file is not (§7.6.2)."""
    if isinstance(value, dict):
        signs = "ByteRange" in value
        return {
            key: one if signs and key == "Contents" else closed_strings(one, lock, number) for key, one in value.items()
        }
    if isinstance(value, (list, tuple)) and not isinstance(value, Ref):
        return [closed_strings(one, lock, number) for one in value]
    if type(value) is str:
        value = text_bytes(value)
    return lock.close_string(value, number) if isinstance(value, bytes) else value


def rights_of(allow: Sequence[str]) -> int:
    """The permissions as a signed number of 32 bits (§7.6.4.2). Raises OptionError for one that is not known."""
    if isinstance(allow, str):
        raise OptionError(f"'allow' is {allow!r}.", remedy=f"Give a sequence, such as ({allow!r},).")
    bits = set(ALWAYS)
    for name in allow:
        if name not in RIGHTS:
            raise OptionError(f"'{name}' is nothing that can be allowed.", remedy=meant(str(name), RIGHTS))
        bits.update(RIGHTS[name])
    number: int = sum(2 ** (bit - 1) for bit in bits)
    return number - 2**32 if number >= 2**31 else number


def allowed_by(number: int) -> tuple[str, ...]:
    """What a number of permissions allows."""
    return tuple(name for name, bits in RIGHTS.items() if all(number >> (bit - 1) & 1 for bit in bits))


# ---- ciphers ----


def _rc4(key: bytes, content: bytes) -> bytes:
    ciphers = _ciphers()
    try:
        from cryptography.hazmat.decrepit.ciphers.algorithms import ARC4
    except ImportError:  # it has moved there
        from cryptography.hazmat.primitives.ciphers.algorithms import ARC4
    return bytes(ciphers(ARC4(key), mode=None).decryptor().update(content))


def _aes(key: bytes, start: bytes, content: bytes, *, closing: bool) -> bytes:
    ciphers = _ciphers()
    from cryptography.hazmat.primitives.ciphers.algorithms import AES
    from cryptography.hazmat.primitives.ciphers.modes import CBC

    machine = ciphers(AES(key), CBC(start))
    turned = machine.encryptor() if closing else machine.decryptor()
    return bytes(turned.update(content) + turned.finalize())


def _ciphers() -> type[Cipher[Any]]:
    try:
        from cryptography.hazmat.primitives.ciphers import Cipher
    except ImportError:
        raise OptionError(
            "Passwords need the package cryptography, which is not there.", remedy="Install fleetquill[sign]."
        ) from None
    return Cipher
