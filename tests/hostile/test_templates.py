"""Templates of strangers: nothing is called, nothing grows, and what templates are for still works."""

import dataclasses
import resource
import time
from collections import namedtuple
from datetime import datetime
from enum import Enum

import pytest

import fleetquill as fq

MOST_SECONDS = 8.0
MOST_KILOBYTES = 100_000
Lock = namedtuple("Lock", "name fee")


@dataclasses.dataclass
class Voyage:
    cargo: str = "barley"

    def sink(self):
        raise AssertionError("a method of the data was called")


class Barge:
    def __init__(self):
        self.name = "Heron"

    def sink(self):
        raise AssertionError("a method of the data was called")

    @property
    def hold(self):
        raise AssertionError("a property of the data was called")


class Row(dict):
    @property
    def hold(self):
        raise AssertionError("a property of the data was called")

    def sink(self):
        raise AssertionError("a method of the data was called")


class Cargo(Enum):
    BARLEY = "barley"

    @property
    def hold(self):
        raise AssertionError("a property of the data was called")


def format(*_):
    raise AssertionError("a function of the data was called")


def function():
    raise AssertionError("a function of the data was called")


DATA = {
    "barge": Barge(), "voyage": Voyage(), "lock": Lock("Saltgate", 3), "function": function,
    "rows": [{"n": 1, "tonnes": 12.5}, {"n": 2, "tonnes": 7}], "barges": [Barge()], "row": Row(n=4), "cargo": Cargo.BARLEY, "format": format, "when": datetime(2026, 5, 1, 9, 30),
}  # fmt: skip


@pytest.fixture(scope="module")
def press():
    return fq.Press(policy=fq.Policy(strangers=True, template_steps=500_000))


@pytest.fixture
def fill(press):
    return lambda template: press.compose(press.fill_in(template + "\n", DATA)).pages[0].text.strip()


GROWS = [
    "{{ 'x' * 1000000000 }}",
    "{{ 1000000000 * 'x' }}",
    "{{ [1] * 1000000000 }}",
    "{{ 'x' | center(1000000000) }}",
    "{{ '%1000000000d' % 1 }}",
    "{{ '%*d' % (1000000000, 1) }}",
    "{{ '%1000000000d' | format(1) }}",
    "{{ '{:1000000000}'.format(1) }}",
    "{{ '{:{w}}'.format(1, w=1000000000) }}",
    "{{ 'x'.ljust(1000000000) }}",
    "{{ 'x'.zfill(1000000000) }}",
    "{{ '\\t'.expandtabs(1000000000) }}",
    "{{ ('x' * 100000) | replace('x', 'y' * 100000) }}",
    "{{ ('x' * 100000).replace('', 'y' * 100000) }}",
    "{{ (['x' * 100000] * 100000) | join }}",
    "{{ ''.join(['x' * 100000] * 100000) }}",
    "{{ 10 ** 10000000 }}",
    "{% set n = namespace(x=2) %}{% for i in range(60) %}{% set n.x = n.x * n.x %}{% endfor %}",
    "{% set n = namespace(x='a') %}{% for i in range(60) %}{% set n.x = n.x ~ n.x %}{% endfor %}",
    "{% set n = namespace(x='a') %}{% for i in range(60) %}{% set n.x = n.x + n.x %}{% endfor %}",
    "{% set n = namespace(x='a') %}{% for i in range(60) %}{% set n.x %}{{ n.x }}{{ n.x }}{% endset %}{% endfor %}",
    "{% set n = namespace(x=[1]) %}{% for i in range(60) %}{% set n.x = [n.x, n.x] %}{% endfor %}{{ n.x }}",
    "{% set n = namespace(x=[1]) %}{% for i in range(60) %}{% set n.x = (n.x, n.x) %}{% endfor %}{{ n.x }}",
    "{% set n = namespace(x=1) %}{% for i in range(60) %}{% set n.x = {'a': n.x, 'b': n.x} %}{% endfor %}{{ n.x | tojson }}",
    "{% set n = namespace(x=1) %}{% for i in range(60) %}{% set n.x = dict(a=n.x, b=n.x) %}{% endfor %}{{ n.x | string }}",
    "{% macro f(n) %}{{ f(n) }}{% endmacro %}{{ f(1) }}",
    "{% macro f(n) %}{% if n %}{{ f(n - 1) }}{{ f(n - 1) }}{% endif %}{% endmacro %}{{ f(50) }}",
    "{% block x %}{{ self.x() }}{% endblock %}",
    "{{ range(100000) | map('string') | map('center', 900) | list | length }}",
    "{% for a in range(100000) %}{% for b in range(100000) %}{% endfor %}{% endfor %}",
    "{% for a in range(100000) %}" + "x" * 2000 + "{% endfor %}",
    "{{ 'x' | indent(100000000) }}",
    "{{ ('\\n' * 100000) | indent(900) }}",
    "{{ ['a'] | batch(1000000000, 'x') | list }}",
    "{{ ['a'] | slice(1000000000) | list }}",
    "{{ 1 | round(1000000000) }}",
    "{{ [1] | tojson(indent=100000000) }}",
    "{{ ('http://a.b/ ' * 9000) | urlize | urlize | urlize }}",
    "{{" + "(" * 3000 + "1" + ")" * 3000 + "}}",
    "{% if true %}" * 3000 + "{% endif %}" * 3000,
    "{{ 1" + " + 1" * 5000 + " }}",
]


@pytest.mark.parametrize("template", GROWS, ids=[template[:60] for template in GROWS])
def test_what_grows_is_refused_before_it_has_grown(fill, template):
    start = time.process_time()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises((fq.LimitError, fq.TemplateError)):
        fill(template)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < MOST_KILOBYTES
    assert time.process_time() - start < MOST_SECONDS


FORBIDDEN = [
    "{{ barge.sink() }}", "{{ barge.hold }}", "{{ barge['hold'] }}", "{{ barge | attr('sink') }}", "{{ voyage.sink() }}",
    "{{ function() }}", "{{ format('x') }}", "{{ row.hold }}", "{{ row.sink() }}", "{{ row['hold'].x }}", "{{ cargo.hold }}", "{{ barges | map(attribute='hold') | list }}", "{{ barges | sum(attribute='hold') }}",
    "{{ barges | sort(attribute='hold') }}", "{{ barges | groupby('hold') }}", "{{ barges | selectattr('hold') | list }}",
    "{{ '{0.hold}'.format(barge) }}", "{{ '{0.__class__}'.format(barge) }}", "{{ 'a'.format.__globals__ }}",
    "{{ ''.__class__ }}", "{{ [function] | map(attribute='__globals__') | list }}", "{{ 'a'.translate({97: 'b'}) }}",
    "{{ lock._replace(fee=9) }}", "{{ rows.append(1) }}", "{{ rows[0].update({}) }}", "{{ self.__init__ }}",
    "{{ cycler.__init__.__globals__ }}", "{{ lipsum() }}", "{{ (function | default(1))() }}",
]  # fmt: skip


@pytest.mark.parametrize("template", FORBIDDEN)
def test_nothing_of_the_data_is_called(fill, template):
    with pytest.raises(fq.TemplateError):
        fill(template)


WORKS = {
    "{{ barge.name }} {{ voyage.cargo }} {{ lock.fee }} {{ lock[0] }}": "Heron barley 3 Saltgate",
    "{% for r in rows %}{{ loop.index }}/{{ loop.length }}:{{ r.tonnes | number }} {% endfor %}": "1/2:12.5 2/2:7",
    "{{ 'a,b'.split(',') | join('-') }} {{ 'Heron'.upper() }} {{ 'x' * 3 }} {{ 3 * 4 }}": "a-b HERON xxx 12",
    "{{ '%.2f' | format(3.14159) }} {{ '{:>5}'.format('a') }} {{ 'a%s' % 'b' }}": "3.14 a ab",
    "{{ [1, 2] + [3] }} {{ dict(a=1).items() | list }} {{ {'a': 1}.get('a') }}": "[1, 2, 3] [('a', 1)] 1",
    "{{ when.isoformat() }} {{ when.year }}": "2026-05-01T09:30:00 2026",
    "{{ rows | map(attribute='tonnes') | sum }} {{ rows | length }}": "19.5 2",
    "{% for r in [[1, [2]]] recursive %}{{ loop(r) if r is iterable else r }}{% endfor %}": "12",
    "{% macro m() %}{{ caller(1) }}{% endmacro %}{% call(x) m() %}[{{ x }}]{% endcall %}": "[1]",
    "{{ cycler(1, 2).next() }}{% set s = 'a' %}{% filter upper %}{{ s }}{% endfilter %}": "1A",
    "{{ 'a' ~ 1 ~ '<' }}": "a1<",
    "{{ row.n }} {{ row['n'] }} {{ row.items() | list }} {{ cargo.value }} {{ cargo.name }}": "4 4 [('n', 4)] barley BARLEY",
}


@pytest.mark.parametrize(("template", "expected"), WORKS.items(), ids=[template[:40] for template in WORKS])
def test_what_templates_are_for_works(fill, template, expected):
    assert " ".join(fill(template).split()) == expected


def test_steps_count_over_the_whole_template_and_begin_anew_for_the_next():
    press = fq.Press(policy=fq.Policy(strangers=True, template_steps=2_000))
    text = "{% for i in range(300) %}{{ i }} {% endfor %}\n"
    assert all(press.fill_in(text, {}) for _ in range(3))
    with pytest.raises(fq.LimitError, match="more than 2000 steps"):
        press.fill_in(text * 4, {})


@pytest.mark.parametrize("statement", ["include", "extends", "import"])
def test_templates_of_other_folders_are_not_read_by_links(tmp_path, statement):
    (tmp_path / "secret").mkdir()
    (tmp_path / "secret" / "key.html").write_text("the key")
    (tmp_path / "own").mkdir()
    (tmp_path / "own" / "link.html").symlink_to(tmp_path / "secret" / "key.html")
    more = " as k" if statement == "import" else ""
    (tmp_path / "own" / "t.html").write_text(f"{{% {statement} 'link.html'{more} %}}\n")
    strict = fq.Press(policy=fq.Policy(strangers=True))
    with pytest.raises(fq.FleetQuillError, match="outside the folders"):
        strict.compose(tmp_path / "own" / "t.html", data={})
    with pytest.raises(fq.FleetQuillError, match="link out of its folder"):
        strict.compose(tmp_path / "own" / "link.html")
    assert fq.Press().compose(tmp_path / "own" / "t.html", data={}).page_count == 1
    folders = fq.Policy(strangers=True, folders=[tmp_path / "secret"])
    assert fq.Press(policy=folders).compose(tmp_path / "own" / "link.html").page_count == 1


def test_a_template_given_as_text_keeps_to_the_policy():
    with pytest.raises(fq.TemplateError, match="may not"):
        fq.Manuscript.from_template("{{ ''.__class__ }}\n", {}, policy=fq.Policy(strangers=True))
    assert fq.Manuscript.from_template("{{ ''.__class__ }}\n", {})


def test_values_have_no_place_in_memory(press):
    m = press.fill_in("<p>{{ barge }}\n", DATA)
    assert press.compose(m).pages[0].text == "<test_templates.Barge object>"
    m = fq.Manuscript.from_template("<p>{{ barge }}{{ f }}\n", {"barge": Barge(), "f": function})
    assert " at 0x" not in fq.compose(m).pages[0].text
