"""Locked files: those of others in every revision, and our own."""

import io
import subprocess

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.pdf.locks import RIGHTS, Lock, Methods, Wish, allowed_by, new_lock, rights_of
from fleetquill.pdf.reading import PdfReader
from readers import accepted, needs, words

REVISIONS = {
    "rc4 of 40 bits": ("40",),
    "rc4 of 128 bits": ("128", "--use-aes=n"),
    "rc4 in a crypt filter": ("128", "--use-aes=n", "--force-V4"),
    "aes of 128 bits": ("128", "--use-aes=y"),
    "aes, metadata plain": ("128", "--use-aes=y", "--cleartext-metadata"),
    "aes of 256 bits, revision 5": ("256", "--force-R5"),
    "aes of 256 bits": ("256",),
}


@pytest.fixture(scope="module")
def plain(tmp_path_factory):
    path = tmp_path_factory.mktemp("locks") / "plain.pdf"
    html = "<html lang=en><title>Löcks</title><h1>Toll</h1><p>Forty barges <a href='#b'>b</a><p id=b>Ende"
    fq.compose(fq.Manuscript.from_html(html)).save(path)
    return path


def locked_by_another(plain, user, owner, options):
    needs("qpdf")
    out = plain.with_name("locked.pdf")
    command = ["qpdf", "--allow-weak-crypto", "--encrypt", user, owner, *options, "--", str(plain), str(out)]
    assert subprocess.run(command, capture_output=True).returncode in (0, 3)
    return out.read_bytes()


@pytest.mark.parametrize("options", REVISIONS.values(), ids=REVISIONS)
@pytest.mark.parametrize(("password", "owner"), [("reed", False), ("boss", True)])
def test_files_that_others_locked_are_opened_by_either_password(plain, options, password, owner):
    mine = PdfReader(plain.read_bytes())
    other = PdfReader(locked_by_another(plain, "reed", "boss", options), "locked.pdf", password)
    assert other.lock is not None and other.lock.owner is owner
    assert not other.repairs
    assert [mine.page_content(page) for page in mine.pages()] == [other.page_content(page) for page in other.pages()]
    assert other.text(other.dictionary(other.trailer["Info"])["Title"]) == "Löcks"


@pytest.mark.parametrize("options", REVISIONS.values(), ids=REVISIONS)
def test_a_wrong_password_and_none_are_told_apart(plain, options):
    content = locked_by_another(plain, "reed", "boss", options)
    with pytest.raises(fq.SourceError, match=r"locked\.pdf: The file is locked\. Give its password"):
        PdfReader(content, "locked.pdf")
    with pytest.raises(fq.SourceError, match="The password does not open the file"):
        PdfReader(content, "locked.pdf", "weed")


def test_a_file_that_opens_without_a_password_opens_without_one(plain):
    reader = PdfReader(locked_by_another(plain, "", "boss", ("256",)))
    assert reader.lock is not None and not reader.lock.owner


def test_letters_beyond_ascii_are_taken_in_passwords(plain):
    assert PdfReader(locked_by_another(plain, "schlüßel", "b", ("256",)), password="schlüßel").lock is not None


def test_what_locks_it_is_named_where_it_is_not_known(plain):
    content = locked_by_another(plain, "a", "b", ("256",)).replace(b"/Filter /Standard", b"/Filter /Stanhard")
    with pytest.raises(fq.SourceError, match="locked by 'Stanhard'"):
        PdfReader(content)


# ---- our own ----


@pytest.mark.parametrize(("password", "owner"), [("reed", None), ("reed", "boss"), (None, "boss")])
def test_a_locked_file_is_read_by_others(tmp_path, password, owner):
    path = tmp_path / "own.pdf"
    source = fq.Manuscript.from_html("<html lang=en><title>Tolls ü</title><h1>Forty barges</h1>")
    fq.write(source, path, password=password, owner_password=owner)
    accepted(path, password or owner)
    assert words(path, password=password or "") == ["Forty", "barges"]
    if password:
        with pytest.raises(fq.SourceError, match="locked"):
            fq.Volume(path)
    opened = fq.Volume(path, password)
    assert opened.is_locked and opened.metadata["title"] == "Tolls ü"


@pytest.mark.parametrize("name", RIGHTS)
def test_what_is_allowed_is_what_others_see(tmp_path, name):
    needs("qpdf")
    path = tmp_path / "own.pdf"
    fq.write(fq.Manuscript.from_html("<p>x"), path, owner_password="boss", allow=(name,))
    shown = subprocess.run(["qpdf", "--show-encryption", str(path)], capture_output=True, text=True).stdout
    said = {
        "print": "print high resolution: allowed", "draft": "print low resolution: allowed",
        "change": "modify other: allowed", "copy": "extract for any purpose: allowed",
        "comment": "modify annotations: allowed", "fill": "modify forms: allowed",
        "arrange": "modify document assembly: allowed",
    }  # fmt: skip
    for other, line in said.items():
        expected = other == name or (name == "print" and other == "draft")
        assert (line in shown) == expected, (other, shown)
    assert "extract for accessibility: allowed" in shown
    assert name in fq.Volume(path).allowed


def test_the_same_input_is_the_same_locked_file_and_another_password_is_another():
    def made(password):
        stream = io.BytesIO()
        fq.write(fq.Manuscript.from_html("<p>x"), stream, kind="pdf", password=password)
        return stream.getvalue()

    assert made("a") == made("a")
    assert made("a") != made("b")


def test_nothing_of_a_locked_file_is_plain(tmp_path):
    path = tmp_path / "own.pdf"
    fq.write(fq.Manuscript.from_html("<title>Heron</title><p>Kittiwake"), path, password="a", attach=[])
    for secret in (b"Heron", b"Kittiwake", b"H\0e\0r\0o\0n"):
        assert secret not in path.read_bytes()


@pytest.mark.parametrize(
    ("options", "message"),
    [
        ({"allow": ("print",)}, "needs a password"),
        ({"password": "a", "allow": ("print",)}, "may do everything"),
        ({"owner_password": "a", "allow": ("prnt",)}, "Did you mean 'print'"),
        ({"owner_password": "a", "allow": "print"}, "Give a sequence"),
        ({"password": "a", "conform": ("PDF/A-2b",)}, "locked file cannot be PDF/A-2b"),
        ({"password": "a", "kind": "svg"}, "'svg' cannot be locked"),
    ],
)
def test_locks_that_cannot_be_are_refused(options, message):
    with pytest.raises(fq.OptionError, match=message):
        fq.write(
            fq.Manuscript.from_html("<html lang=en><title>x</title><p>x"), io.BytesIO(), **{"kind": "pdf"} | options
        )


@given(st.sets(st.sampled_from(sorted(RIGHTS))))
def test_rights_are_read_as_they_were_given(names):
    number = rights_of(sorted(names))
    assert set(allowed_by(number)) == names | ({"draft"} if "print" in names else set())
    assert -(2**31) <= number < 0


@given(
    st.binary(max_size=200), st.integers(1, 10**6), st.sampled_from(["none", "rc4", "aes", "aes256"]),
)  # fmt: skip
def test_what_is_closed_opens_again(content, number, method):
    lock = Lock(bytes(range(32 if method == "aes256" else 16)), Methods(method, method))
    assert lock.open_stream(lock.close(content, number), number, 0) == content
    assert lock.open_string(lock.close_string(content, number), number, 0) == content


def test_a_key_is_drawn_from_both_passwords():
    keys = {new_lock(Wish(user, owner, ("print",))).key for user in ("", "a") for owner in ("b", "c")}
    assert len(keys) == 4
