"""Documents as plain values, which another process can be sent."""

import copy
import pickle

import matplotlib.pyplot as plt
import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from conftest import DEMO
from fleetquill.demo.gallery import gallery
from fleetquill.drawing.canvas import Drawing
from fleetquill.layout.contract.fragments import walk
from fleetquill.tree.packed import pack, unpack


def built():
    m = fq.Manuscript(title="Tolls", language="en", page="A5")
    m.heading("Tolls")
    m.ledger([{"lock": "Stonecross", "toll": 2}], ["lock", fq.Column("toll", form="money:EUR", total="sum")])
    m.chart("bar", [{"lock": "a", "toll": 1}, {"lock": "b", "toll": 2}], x="lock", y="toll")
    return m


def drawn():
    figure, axes = plt.subplots(figsize=(2, 2))
    axes.plot([1, 3, 2])
    plt.close(figure)
    m = fq.Manuscript(title="T", language="en")
    m.figure(figure, alt="a line")
    return m


MANUSCRIPTS = {
    "built": built,
    "figure": drawn,
    "html": lambda: fq.Manuscript.from_html(
        "<!-- a --><html lang=en><title>T</title>\n\n<p style='colr: red'>x<svg width=9 height=9><rect width=9 height=9 /></svg> tail <b @x=1>y</b>"
    ),
    "report": lambda: fq.Press().read(DEMO / "report.html", data=DEMO / "report.json"),
    "markdown": lambda: fq.Manuscript.from_markdown("# Tolls\n\n- a\n- b[^1]\n\n[^1]: note"),
}


@pytest.mark.parametrize("name", MANUSCRIPTS)
def test_a_manuscript_that_was_sent_is_the_same(name):
    manuscript = MANUSCRIPTS[name]()
    sent = fq.compose(pickle.loads(pickle.dumps(manuscript)))
    here = fq.compose(MANUSCRIPTS[name]())
    assert sent.to_bytes() == here.to_bytes()
    assert [(one.message, one.line) for one in sent.remarks] == [(one.message, one.line) for one in here.remarks]


def test_it_can_be_added_to_afterwards():
    manuscript = pickle.loads(pickle.dumps(built()))
    manuscript.paragraph("More")
    assert "More" in fq.compose(manuscript).pages[-1].text


def test_copies_are_what_they_were():
    manuscript = built()
    for copied in (copy.copy(manuscript), copy.deepcopy(manuscript)):
        assert fq.compose(copied).to_bytes() == fq.compose(manuscript).to_bytes()
    deep = copy.deepcopy(manuscript)
    deep.paragraph("More")
    assert "More" not in fq.compose(manuscript).pages[-1].text
    assert deep.to_data()["parts"][-1] == {"paragraph": "More"}


@given(
    st.recursive(
        st.sampled_from(["", "x", "<!--c-->"]),
        lambda inner: (
            st.builds("<i a='{0}'>{1}</i>{0}".format, st.sampled_from(["", "v"]), inner)
            | st.builds("{}{}".format, inner, inner)
        ),
        max_leaves=12,
    )
)
def test_any_tree_comes_back(html):
    root = fq.Manuscript.from_html(f"<p>{html}").root

    def shape(element):
        return (element.tag, dict(element.attrib), element.text, element.tail, [shape(child) for child in element])

    assert shape(unpack(pack(root, lambda element: element.sourceline))) == shape(root)


def test_briefs_and_documents_of_a_shelf_are_sent():
    brief = pickle.loads(pickle.dumps(fq.Brief.read(DEMO / "tolls.brief.yaml")))
    assert fq.compose(brief).page_count >= 1
    invoice = pickle.loads(pickle.dumps(fq.Shelf(DEMO / "shelf")["invoice"]))
    assert fq.compose(invoice, data=invoice.sample).page_count == 1


def test_rows_of_an_iterator_are_not_sent():
    m = fq.Manuscript(title="T", language="en")
    m.ledger(iter([{"a": 1}]), ["a"])
    with pytest.raises(TypeError):
        pickle.dumps(m)


def drawings_of(edition):
    """The vector pictures of an edition, those with text in them too."""
    boxes = (one.box for page in edition.pages for part in page._fragment.parts for one in walk(part))
    return [box.picture for box in boxes if isinstance(getattr(box, "picture", None), Drawing)]


def painted(drawing):
    canvas = Drawing(drawing.width, drawing.height)
    drawing.paint(canvas)
    return [step.verb for step in canvas.steps]


def test_drawings_are_sent_with_their_letters():
    drawings = drawings_of(fq.compose(gallery(DEMO)))
    assert len(drawings) >= 10
    for drawing in drawings:
        sent = pickle.loads(pickle.dumps(drawing))
        assert painted(sent) == painted(drawing) and (sent.width, sent.height) == (drawing.width, drawing.height)
    assert any(b"face_again" in pickle.dumps(drawing) for drawing in drawings)
