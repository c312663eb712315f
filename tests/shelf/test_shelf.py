"""A shelf: named documents of a folder, their samples and schemas, and what holds for all of them."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from command_line import command
from conftest import DEMO
from fleetquill.shelf.schemas import check_schema, guessed_schema, path_of


@pytest.fixture
def make(tmp_path):
    """Makes a shelf of files and their texts."""

    def run(files):
        for name, text in files.items():
            path = tmp_path / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text)
        return tmp_path

    return run


PAGE = "<html lang=en><title>{{ title }}</title><h1>{{ title }}</h1><p id=sum>{{ sum | money }}"


@pytest.fixture
def keepers():
    return fq.Shelf(DEMO / "shelf")


def test_documents_are_files_and_folders(make):
    shelf = fq.Shelf(
        make(
            {
                "letter.html": PAGE, "letter.sample.json": "{}", "letter.schema.json": "{}", "notes.md": "# x",
                "tolls.brief.yaml": "brief: {title: x}", "invoice/invoice.html": PAGE, "invoice/other.html": "x",
                "invoice/sample.json": "{}", "label/any.html": "x", "two/a.html": "x", "two/b.html": "x",
                "_shared/head.html": "x", ".hidden.html": "x", "mark.svg": "<svg/>", "empty/x.css": "",
            }
        )
    )  # fmt: skip
    assert shelf.names == ("invoice", "label", "letter", "notes", "tolls")
    assert [shelf[name].kind for name in shelf] == ["template", "template", "template", "markdown", "brief"]
    assert len(shelf) == 5 and "letter" in shelf and "two" not in shelf
    assert shelf["invoice"].path.name == "invoice.html"
    assert shelf["invoice"].sample_path.name == "sample.json" and shelf["label"].sample_path is None
    assert repr(shelf["notes"]) == f"<ShelfDocument 'notes': markdown, {shelf['notes'].path}>"


def test_a_document_is_a_source_like_any_other(keepers):
    press = keepers.press()
    document = keepers["invoice"]
    edition = press.compose(document, data=document.sample)
    assert "€494.92" in edition.pages[0].text and edition.remarks == ()
    assert edition.pages[0].margins["bottom-right"] == "Page 1 of 1"
    brief = press.compose(keepers["tolls"], parameters={"at": "Saltgate"})
    assert "Tolls of Saltgate" in brief.pages[0].text and "€33.75" in brief.pages[0].text


@pytest.mark.parametrize("kind", ["pdf", "docx", "html", "txt"])
def test_it_is_written_as_any_kind(keepers, kind, tmp_path):
    target = tmp_path / f"a.{kind}"
    summary = keepers.press().write(keepers["letter"], target, data=keepers["letter"].sample)
    assert target.stat().st_size > 300
    assert any(path.name == "house.css" for path in summary.files)


def test_documents_are_put_together(keepers, tmp_path):
    target = tmp_path / "all.pdf"
    parts = [fq.Part(keepers[name], data=keepers[name].sample) for name in ("letter", "invoice")]
    fq.bind([*parts, keepers["tolls"]], target, press=keepers.press())
    assert [page.text.split("\n")[1] for page in fq.Volume(target).pages][:2] == [
        "Ilse Marsh",
        "Freight invoice F-2041",
    ]


def test_what_holds_for_all_and_for_one(make):
    shelf = fq.Shelf(
        make(
            {
                "shelf.toml": "locale='de'\ncurrency='CHF'\npage='A5'\nconform=['PDF/A-2b']\nstyles=['_h/house.css']\n"
                "[documents.small]\npage='80mm 60mm'\nmargin='3mm'\nlocale='en'\ntitle='Small'\nconform=[]\nfillable=true",
                "_h/house.css": "h1 { font-size: 33pt } p { background: url(mark.png) }",
                "large.html": PAGE, "small.html": f"{PAGE}<input name=a title=A>",
            }
        )
    )  # fmt: skip
    press = shelf.press()
    large = press.compose(shelf["large"], data={"title": "Zoll", "sum": 1234.5})
    assert (round(large.pages[0].width), round(large.pages[0].height)) == (420, 595)
    assert "1’234" in large.pages[0].text or "1.234,50" in large.pages[0].text
    assert large.locate("h1")[0].height > 33
    assert any("mark.png" in str(remark) for remark in large.remarks), "addresses in a sheet are relative to it"
    assert fq.Volume(large.to_bytes()).conforms_to == ("PDF/A-2b",)
    small = press.compose(shelf["small"], data={"title": "Toll", "sum": 1234.5})
    assert round(small.pages[0].width) == 227 and "1,234.50" in small.pages[0].text
    volume = fq.Volume(small.to_bytes())
    assert volume.metadata["title"] == "Small" and "a" in volume.fields and volume.conforms_to == ()


def test_a_document_finds_shared_parts_with_any_press(make):
    shelf = fq.Shelf(make({"_shared/head.html": "<h1>Tolls</h1>", "a/a.html": '{% include "_shared/head.html" %}'}))
    assert "Tolls" in fq.compose(shelf["a"], data={}).pages[0].text


def test_a_document_in_another_locale(make):
    shelf = fq.Shelf(make({"shelf.toml": "locale = 'en'", "a.html": "{{ sum | number }}"}))
    document = shelf["a"].in_locale("de")
    assert "1.234,5" in fq.compose(document, data={"sum": 1234.5}).pages[0].text
    with pytest.raises(fq.OptionError, match="not known"):
        document.in_locale("nowhere")


def test_what_is_asked_for_goes_before_what_the_shelf_says(make):
    shelf = fq.Shelf(make({"shelf.toml": "page='A5'", "a.html": "<p>x"}))
    assert round(shelf.press().compose(shelf["a"], page="A4").pages[0].width) == 595


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("locale = ", "is no TOML"),
        ("localle = 'de'", "Did you mean 'locale'"),
        ("locale = 3", "'locale' is 3, not a text"),
        ("locale = 'xx-yy-zz'", "locale"),
        ("page = 'A99'", "not a page"),
        ("margin = 'wide'", "not a length"),
        ("conform = 'PDF/A-2b'", "not a list of texts"),
        ("conform = ['PDF/A-9']", "no standard"),
        ("styles = ['no.css']", "'no.css' is not on the shelf"),
        ("fillable = 'yes'", "not true or false"),
        ("documents = 3", "not a table"),
        ("[documents]\na = 3", "'documents.a' is 3"),
        ("[documents.a]\npag = 'A4'", "'documents.a.pag' is nothing"),
        ("[documents.b]\npage = 'A4'", "speaks of 'b', which is not on the shelf"),
    ],
)
def test_mistakes_in_the_settings_are_told_with_their_file(make, text, message):
    folder = make({"shelf.toml": text, "a.html": "x"})
    with pytest.raises(fq.FleetQuillError, match=message) as told:
        fq.Shelf(folder)
    assert "shelf.toml" in str(told.value)


@pytest.mark.parametrize(("name", "message"), [("invoic", "Did you mean 'invoice'"), ("x", "It may be invoice")])
def test_a_name_that_is_not_there_is_told_with_the_nearest(keepers, name, message):
    with pytest.raises(fq.OptionError, match=message):
        keepers[name]


def test_a_folder_that_is_not_there_is_said(tmp_path):
    with pytest.raises(fq.SourceError, match="no folder that is there"):
        fq.Shelf(tmp_path / "none")


def test_a_shelf_is_found_in_a_package():
    assert fq.Shelf.of_package("fleetquill.demo", "shelf").names == ("invoice", "label", "letter", "receipt", "tolls")
    with pytest.raises(fq.SourceError, match=r"no package 'fleetquill\.nothing'"):
        fq.Shelf.of_package("fleetquill.nothing")


# ---- data ----


def test_a_template_without_data_says_where_its_sample_is(keepers):
    with pytest.raises(fq.DataError, match=r"needs data\. Try it with its sample, shelf\['letter'\]\.sample"):
        keepers.press().compose(keepers["letter"])


def test_what_takes_no_data_refuses_it(make):
    shelf = fq.Shelf(make({"notes.md": "# x"}))
    with pytest.raises(fq.DataError, match="it takes no data"):
        shelf.press().compose(shelf["notes"], data={"a": 1})


@pytest.mark.parametrize(
    ("change", "message"),
    [
        ({"member": {"name": ""}}, r"member\.name: '' should be non-empty"),
        ({"member": {"shares": "one"}}, r"member\.shares: 'one' is not of type 'integer'"),
        ({"date": 3}, "date: 3 is not of type 'string'"),
        ({"member": None}, "member: None is not of type 'object'"),
    ],
)
def test_data_is_held_against_the_schema(keepers, change, message):
    document = keepers["letter"]
    data = document.sample
    for name, value in change.items():
        data[name] = data[name] | value if isinstance(value, dict) else value
    with pytest.raises(fq.DataError, match=message):
        keepers.press().compose(document, data=data)


def test_a_guessed_schema_names_what_is_missing(keepers):
    document = keepers["invoice"]
    data = document.sample
    del data["lines"][1]["tonnes"]
    with pytest.raises(fq.DataError, match=r"lines\[1\]: 'tonnes' is a required property"):
        keepers.press().compose(document, data=data)


@pytest.mark.parametrize(
    ("sample", "expected"),
    [
        ({"a": 1}, {"a": {"type": "number"}}),
        ({"a": "x"}, {"a": {"type": "string"}}),
        ({"a": True}, {"a": {"type": "boolean"}}),
        ({"a": None}, {"a": {}}),
        ({"a": []}, {"a": {"type": "array"}}),
        ({"a": [1, "x"]}, {"a": {"type": "array", "items": {"type": ["number", "string"]}}}),
    ],
)
def test_a_schema_is_guessed(sample, expected):
    schema = guessed_schema(sample)
    assert schema["properties"] == expected and schema["required"] == ["a"]


def test_what_only_some_rows_have_is_not_needed():
    items = guessed_schema({"a": [{"x": 1, "y": 2}, {"x": 3}]})["properties"]["a"]["items"]
    assert items["required"] == ["x"] and set(items["properties"]) == {"x", "y"}


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers(-(10**6), 10**6) | st.text(max_size=5),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3),
        max_leaves=12,
    )
)
def test_any_sample_fits_the_schema_that_is_guessed_from_it(sample):
    check_schema({"a": sample}, guessed_schema({"a": sample}), "x")


def test_paths_are_those_of_messages():
    assert path_of(["lines", 2, "price"]) == "lines[2].price"


def test_a_schema_that_is_none_is_told(make):
    shelf = fq.Shelf(
        make({"a.html": "<p>{{ x }}", "a.schema.json": '{"type": "thing"}', "b.html": "x", "b.schema.json": "{"})
    )
    with pytest.raises(fq.DataError, match="The schema is none"):
        shelf.press().compose(shelf["a"], data={"x": 1})
    with pytest.raises(fq.DataError, match="The schema is no JSON"):
        shelf.press().compose(shelf["b"], data={"x": 1})


# ---- the command ----


def run(*arguments):
    return command("shelf", *arguments)


def test_the_command_lists_and_checks(keepers):
    listed = run(keepers.folder)
    assert listed.returncode == 0
    assert listed.stdout.splitlines()[0] == "invoice: template, invoice/invoice.html, sample sample.json"
    checked = run(keepers.folder, "--check")
    assert checked.returncode == 0, checked.stderr + checked.stdout
    assert [line.split(",")[0] for line in checked.stdout.splitlines()] == [f"{name}: 1 page" for name in keepers.names]
    assert json.loads(run(keepers.folder, "letter", "--schema").stdout)["title"] == "A letter to a member"


def test_the_command_fails_on_remarks_and_errors(make):
    folder = make(
        {
            "a.html": "<p>{{ x }}<img src=no.png alt=x>",
            "a.sample.json": '{"x": 1}',
            "b.html": "{{ y }}",
            "b.sample.json": "{}",
            "c.md": "x",
        }
    )
    done = run(folder, "--check")
    assert done.returncode == 1
    assert "b: cannot be made" in done.stderr and "'no.png' is not shown" in done.stderr
    assert "c: 1 page" in done.stdout, "the others are made all the same"
    assert run(folder, "d").returncode == 1
