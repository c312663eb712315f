"""Every property: what its values come to, what is no value of it, where it begins, whether it is inherited.

The values are those of the standards that src/fleetquill/style/properties.py names beside each.
"""

import pytest
import tinycss2

from fleetquill.style.background_values import BoxShadow, Url
from fleetquill.style.drawn_properties import Paint
from fleetquill.style.effect_properties import Slices, Times
from fleetquill.style.generated import Attribute, Counter, Picture, Quote, Text
from fleetquill.style.grid_values import Fraction, Line, Names, Repeat, Track
from fleetquill.style.lengths import Factor, Relative, Sum, Unresolved
from fleetquill.style.property_rows import PROPERTIES
from fleetquill.style.shorthands import expand
from fleetquill.style.values import Rgba

RED, BLUE, NOTHING = Rgba(1, 0, 0, 1), Rgba(0, 0, 1, 1), Rgba(0, 0, 0, 0)


def share(ratio):
    return Relative(0.0, ratio)


def declared(name, value):
    """What a declaration sets: values by field; None where it is not understood."""
    return expand(name, tinycss2.parse_component_value_list(value))


VALUES = [
    ('-fq-anchor', [], ['middle']),
    ('-fq-comb', [('4', 4)], ['none-of', '-1', '0']),
    ('-fq-fit', [('shrink', 'shrink'), ('none', 'none')], ['grow']),
    ('-fq-overrun', [('run', 'run')], ['stay']),
    ('-fq-repeat-share', [('25%', share(0.25)), ('3cm', 113.385827)], ['-5%', 'a']),
    ('-fq-show-on', [('last', 'last'), ('continued', 'continued'), ('going-on', 'going-on')], ['first-of']),
    ('-fq-wrap', [('late', 'late')], ['early']),
    ('align-content', [('center', 'center'), ('space-between', 'space-between'), ('stretch', 'stretch'), ('start',
     'start')], ['left-ish', '3px']),
    ('align-items', [('flex-end', 'flex-end'), ('baseline', 'baseline'), ('center', 'center')], ['middle']),
    ('align-self', [('stretch', 'stretch'), ('flex-start', 'flex-start'), ('auto', 'auto')], ['middle']),
    ('aspect-ratio', [('2', (False, 2.0)), ('16/9', (False, 1.777778)), ('auto', (True, 0.0)), ('auto 4/3', (True,
     1.333333))], ['-1', '4/', 'a/b']),
    ('background-attachment', [('fixed', ('fixed',)), ('scroll, fixed', ('scroll', 'fixed'))], ['still']),
    ('background-blend-mode', [('multiply', ('multiply',)), ('multiply, screen', ('multiply', 'screen'))], ['mix']),
    ('background-clip', [('text', ('text',)), ('padding-box, content-box', ('padding-box', 'content-box'))], ['box']),
    ('background-color', [('red', RED), ('transparent', NOTHING), ('#12345678', Rgba(0.070588, 0.203922, 0.337255,
     0.470588)), ('currentcolor', 'currentcolor')], ['5px', '#12345']),
    ('background-origin', [('content-box', ('content-box',))], ['margin-box']),
    ('background-position', [('left 10px top 5px', ((10.0, 5.0),)), ('50%', ((share(0.5), share(0.5)),)),
     ('center bottom', ((share(0.5), share(1)),)), ('3px 4px, right', ((3.0, 4.0), (share(1), share(0.5))))],
     ['left left', '1px 2px 3px', 'top 10px left 5px right']),
    ('background-repeat', [('repeat-x', (('repeat', 'no-repeat'),)), ('no-repeat round', (('no-repeat', 'round'),)),
     ('space, repeat-y', (('space', 'space'), ('no-repeat', 'repeat')))], ['twice', 'repeat-x repeat-y']),
    ('background-size', [('cover', ('cover',)), ('10px', ((10.0, 'auto'),)), ('10px 50%', ((10.0, share(0.5)),)),
     ('auto 3px, contain', (('auto', 3.0), 'contain'))], ['-1px', 'cover cover']),
    ('border-bottom-width', [('thin', 'thin'), ('thick', 'thick'), ('3.5px', 3.5), ('1mm', 3.779528)], ['5%',
     '-1px', '4']),
    ('border-top-style', [('dashed', 'dashed'), ('groove', 'groove'), ('hidden', 'hidden')], ['wavy']),
    ('border-top-left-radius', [('5px', (5.0, 5.0)), ('5px 10%', (5.0, share(0.1)))], ['-1px', '1px 2px 3px']),
    ('border-left-color', [('blue', BLUE), ('currentcolor', 'currentcolor')], ['none']),
    ('border-collapse', [('collapse', 'collapse')], ['join']),
    ('border-spacing', [('3px', (3.0, 3.0)), ('3px 4px', (3.0, 4.0))], ['-1px', '1px 2px 3px', '10%']),
    ('bookmark-level', [('3', 3), ('none', 'none')], ['0', '-1', 'first']),
    ('bookmark-state', [('closed', 'closed')], ['shut']),
    ('bottom', [('5px', 5.0), ('-3px', -3.0), ('10%', share(0.1)), ('auto', 'auto')], ['none']),
    ('box-decoration-break', [('clone', 'clone')], ['copy']),
    ('box-shadow', [('1px 2px', (BoxShadow(False, 1.0, 2.0, 0.0, 0.0, 'currentcolor'),)), ('1px 2px 3px 4px red',
     (BoxShadow(False, 1.0, 2.0, 3.0, 4.0, RED),)), ('inset 0 0 5px blue, 1px 1px', (BoxShadow(True, 0.0, 0.0, 5.0,
     0.0, BLUE), BoxShadow(False, 1.0, 1.0, 0.0, 0.0, 'currentcolor'))), ('none', ())], ['1px', '1px 2px -3px',
     'red blue 1px 1px']),
    ('box-sizing', [('border-box', 'border-box')], ['padding-box']),
    ('break-after', [('page', 'page'), ('left', 'left'), ('avoid', 'avoid'), ('column', 'column'), ('recto',
     'recto')], ['never']),
    ('break-before', [('always', 'always'), ('verso', 'verso'), ('avoid-page', 'avoid-page'), ('right', 'right')],
     ['never']),
    ('break-inside', [('avoid', 'avoid'), ('avoid-page', 'avoid-page'), ('avoid-column', 'avoid-column')], ['page']),
    ('caption-side', [('bottom', 'bottom')], ['left']),
    ('clear', [('both', 'both'), ('inline-start', 'inline-start')], ['top']),
    ('clip-rule', [('evenodd', 'evenodd')], ['odd']),
    ('color', [('red', RED), ('rgb(1 2 3 / 50%)', Rgba(0.003922, 0.007843, 0.011765, 0.5)), ('hsl(120, 100%, 25%)',
     Rgba(0, 0.5, 0, 1))], ['reddish', 'rgb(1,2)', '#1234567']),
    ('column-count', [('3', 3), ('auto', 'auto')], ['0', '-2', '1.5']),
    ('column-fill', [('auto', 'auto')], ['all']),
    ('column-gap', [('5px', 5.0), ('2em', Unresolved(2, "em")), ('normal', 'normal'), ('10%', share(0.1))], ['-1px',
     'auto']),
    ('column-span', [('all', 'all')], ['2']),
    ('column-width', [('100px', 100.0), ('auto', 'auto')], ['-5px', '10%']),
    ('content', [('none', 'none'), ('"a"', (Text('a'),)), ('counter(page)', (Counter('page', 'decimal'),)),
     ('attr(title)', (Attribute('title', ''),)), ('open-quote', (Quote(True, True),)), ('url(a.png)',
     (Picture('a.png'),))], ['a', '5', 'counter()']),
    ('counter-increment', [('a', (('a', 1),)), ('a 2 b -1', (('a', 2), ('b', -1))), ('none', ())], ['3 a', 'a 1.5']),
    ('counter-reset', [('a', (('a', 0),)), ('a 5', (('a', 5),))], ['5']),
    ('counter-set', [('a 3', (('a', 3),))], ['4 a']),
    ('direction', [('rtl', 'rtl')], ['up']),
    ('display', [('block', 'block'), ('inline-flex', 'inline-flex'), ('table-cell', 'table-cell'), ('none', 'none'),
     ('list-item', 'list-item'), ('grid', 'grid'), ('flow-root', 'flow-root'), ('contents', 'contents'),
     ('inline grid', 'inline-grid')], ['blocky', 'block inline']),
    ('empty-cells', [('hide', 'hide')], ['none']),
    ('fill', [('red', Paint(RED, '', '')), ('none', Paint(NOTHING, '', '')), ('url(#a)', Paint(NOTHING, 'a', '')),
     ('url(#a) blue', Paint(BLUE, 'a', '')), ('currentcolor', Paint('currentcolor', '', ''))], ['5px', 'red blue']),
    ('fill-opacity', [('.5', 0.5), ('50%', 0.5), ('3', 1.0)], ['a']),
    ('fill-rule', [('evenodd', 'evenodd')], ['odd']),
    ('flex-basis', [('10px', 10.0), ('50%', share(0.5)), ('auto', 'auto'), ('content', 'content')], ['-1px', 'none']),
    ('flex-direction', [('column-reverse', 'column-reverse')], ['up']),
    ('flex-grow', [('2', 2.0), ('.5', 0.5)], ['-1', '1px']),
    ('flex-shrink', [('0', 0.0)], ['-1']),
    ('flex-wrap', [('wrap-reverse', 'wrap-reverse')], ['yes']),
    ('float', [('left', 'left'), ('inline-end', 'inline-end'), ('footnote', 'footnote'), ('none', 'none')],
     ['center']),
    ('font-family', [('Arial', ('Arial',)), ('"A B", serif', ('A B', 'serif')), ('A B C', ('A B C',)),
     ("'x', monospace", ('x', 'monospace'))], ['5px', 'A,', '"a" "b"']),
    ('font-feature-settings', [('"smcp"', (('smcp', 1),)), ('"tnum" 1, "liga" off', (('tnum', 1), ('liga', 0))),
     ('normal', ())], ['smcp', '"toolong"', '"tnum" -1']),
    ('font-kerning', [('none', 'none')], ['off']),
    ('font-size', [('12pt', 16.0), ('large', 'large'), ('150%', share(1.5)), ('smaller', 'smaller'), ('2em',
     Unresolved(2, "em")), ('xx-small', 'xx-small'), ('1rem', Unresolved(1, "rem"))], ['-1px', 'big', '12']),
    ('font-stretch', [('condensed', 75.0), ('75%', 75.0), ('ultra-expanded', 200.0)], ['wide', '-10%']),
    ('font-style', [('italic', 'italic'), ('oblique', 'oblique'), ('oblique 10deg', 'oblique')], ['slanted']),
    ('font-synthesis', [('none', ()), ('weight', ('weight',)), ('style', ('style',))], ['both']),
    ('font-variant-caps', [('small-caps', 'small-caps'), ('all-small-caps', 'all-small-caps'), ('unicase',
     'unicase')], ['caps']),
    ('font-variant-emoji', [('emoji', 'emoji'), ('text', 'text'), ('Unicode', 'unicode')], ['color']),
    ('font-variant-ligatures', [('none', ('none',)), ('no-common-ligatures', ('no-common-ligatures',)),
     ('discretionary-ligatures historical-ligatures', ('discretionary-ligatures', 'historical-ligatures'))], ['lig',
     'common-ligatures no-common-ligatures']),
    ('font-variant-numeric', [('tabular-nums', ('tabular-nums',)), ('oldstyle-nums slashed-zero', ('oldstyle-nums',
     'slashed-zero')), ('ordinal', ('ordinal',))], ['tabular-nums proportional-nums', 'nums']),
    ('font-variant-position', [('sub', 'sub'), ('super', 'super')], ['up']),
    ('font-weight', [('bold', 700), ('350', 350), ('bolder', 'bolder'), ('lighter', 'lighter')], ['0', '1001',
     'heavy']),
    ('grid-auto-columns', [('10px', (Track(10.0, 10.0),)), ('1fr', (Track('auto', Fraction(1.0)),)),
     ('minmax(5px, 1fr) 20%', (Track(5.0, Fraction(1.0)), Track(share(0.2), share(0.2))))], ['-1px', 'none']),
    ('grid-auto-flow', [('column', ('column', False)), ('dense', ('row', True)), ('row dense', ('row', True))],
     ['row column', 'sparse']),
    ('grid-column-end', [('3', Line(3, '', False)), ('span 2', Line(2, '', True)), ('-1', Line(-1, '', False)),
     ('a', Line(0, 'a', False)), ('span a', Line(0, 'a', True))], ['0', 'span 0', 'span -1']),
    ('grid-row-start', [('2', Line(2, '', False)), ('auto', 'auto'), ('a 2', Line(2, 'a', False))], ['0']),
    ('grid-template-areas', [('"a b" "c c"', (('a', 'b'), ('c', 'c'))), ('none', ())], ['"a b" "a"', '"a b" "b a"',
     'a']),
    ('grid-template-columns', [('10px 1fr', (Track(10.0, 10.0), Track('auto', Fraction(1.0)))), ('repeat(2, 5px)',
     (Repeat(2, (Track(5.0, 5.0),)),)), ('[a] 10px [b c]', (Names(('a',)), Track(10.0, 10.0), Names(('b', 'c')))),
     ('minmax(1px, max-content)', (Track(1.0, 'max-content'),)), ('repeat(auto-fill, 10px)', (Repeat('auto-fill',
     (Track(10.0, 10.0),)),)), ('none', ())], ['-1px', 'repeat(0, 1px)', '1fr,']),
    ('height', [('5px', 5.0), ('50%', share(0.5)), ('auto', 'auto'), ('max-content', 'max-content'),
     ('calc(10px + 5%)', Sum('calc', (Sum('+', (10.0, share(0.05))),)))], ['-1px', 'none']),
    ('hyphenate-character', [('"-"', '-'), ('auto', 'auto')], ['5']),
    ('hyphenate-limit-chars', [('6 3 2', (6, 3, 2)), ('8', (8, 2, 2)), ('auto', (5, 2, 2))], ['a']),
    ('hyphens', [('auto', 'auto'), ('none', 'none')], ['yes']),
    ('image-orientation', [('none', 'none')], ['90']),
    ('image-rendering', [('pixelated', 'pixelated'), ('crisp-edges', 'crisp-edges')], ['fast']),
    ('image-resolution', [('300dpi', 300.0), ('2dppx', 192.0)], ['0', '5px']),
    ('initial-letter', [('3', (3.0, 3)), ('3 2', (3.0, 2)), ('normal', (0.0, 0))], ['0', '-1']),
    ('isolation', [('isolate', 'isolate')], ['yes']),
    ('justify-content', [('space-around', 'space-around'), ('left', 'left'), ('end', 'end')], ['middle']),
    ('justify-items', [('legacy center', 'center'), ('start', 'start')], ['middle']),
    ('justify-self', [('end', 'end')], ['between']),
    ('left', [('5px', 5.0), ('50%', share(0.5))], ['none']),
    ('letter-spacing', [('2px', 2.0), ('.1em', Unresolved(0.1, "em")), ('normal', 0.0), ('-1px', -1.0)], ['5']),
    ('line-break', [('strict', 'strict'), ('anywhere', 'anywhere')], ['soft']),
    ('line-clamp', [('3', 3), ('none', 'none')], ['0', 'a']),
    ('line-height', [('1.5', Factor(1.5)), ('20px', 20.0), ('150%', share(1.5)), ('normal', 'normal')], ['-1',
     'auto']),
    ('list-style-image', [('none', 'none'), ('url(a.png)', Url('a.png'))], ['linear-gradient(red, blue)', 'a.png', 'none none']),
    ('list-style-position', [('inside', 'inside')], ['middle']),
    ('list-style-type', [('square', 'square'), ('lower-roman', 'lower-roman'), ('"-"', '"-'), ('none', 'none')],
     ['5']),
    ('margin-top', [('5px', 5.0), ('-5px', -5.0), ('10%', share(0.1)), ('auto', 'auto'), ('1em', Unresolved(1,
     "em"))], ['none', '5']),
    ('marks', [('crop', ('crop',)), ('crop cross', ('crop', 'cross')), ('none', ())], ['cut', 'crop crop']),
    ('max-height', [('10px', 10.0), ('none', 'none'), ('50%', share(0.5))], ['auto', '-1px']),
    ('max-width', [('10px', 10.0), ('max-content', 'max-content')], ['auto']),
    ('min-height', [('10px', 10.0), ('auto', 'auto')], ['none', '-1px']),
    ('min-width', [('min-content', 'min-content'), ('0', 0.0)], ['none']),
    ('mix-blend-mode', [('darken', 'darken')], ['shade']),
    ('object-fit', [('contain', 'contain'), ('scale-down', 'scale-down')], ['crop']),
    ('object-position', [('left', (share(0), share(0.5))), ('10px 20%', (10.0, share(0.2)))], ['1px 2px 3px']),
    ('opacity', [('.5', 0.5), ('50%', 0.5), ('2', 1.0), ('-1', 0.0)], ['a', '1px']),
    ('order', [('3', 3), ('-1', -1)], ['1.5']),
    ('orphans', [('3', 3)], ['0', '-1', '1.5']),
    ('outline-color', [('red', RED)], ['none']),
    ('outline-offset', [('3px', 3.0), ('-1px', -1.0)], ['5%']),
    ('outline-style', [('auto', 'auto'), ('dotted', 'dotted')], ['hidden']),
    ('outline-width', [('thick', 'thick')], ['1%']),
    ('overflow', [('hidden', 'hidden'), ('clip', 'clip'), ('auto', 'auto')], ['none']),
    ('overflow-wrap', [('anywhere', 'anywhere'), ('break-word', 'break-word')], ['wrap']),
    ('padding-left', [('5px', 5.0), ('10%', share(0.1))], ['-1px', 'auto']),
    ('page', [('wide', 'wide'), ('auto', 'auto')], ['5']),
    ('page-orientation', [('rotate-left', 'rotate-left')], ['left']),
    ('paint-order', [('stroke', 'stroke'), ('markers fill', 'markers')], ['line']),
    ('position', [('absolute', 'absolute'), ('relative', 'relative'), ('fixed', 'fixed')], ['center']),
    ('quotes', [('"a" "b"', ('a', 'b')), ('none', 'none'), ('auto', 'auto'), ('"a" "b" "c" "d"', ('a', 'b', 'c',
     'd'))], ['"a"', 'a']),
    ('row-gap', [('3px', 3.0)], ['-3px']),
    ('size', [('A4', (793.700787, 1122.519685)), ('A5 landscape', (793.700787, 559.370079)), ('100mm 50mm',
     (377.952756, 188.976378)), ('10cm', (377.952756, 377.952756)), ('auto', ('auto',))], ['A11', '1px 2px 3px',
     'landscape portrait']),
    ('stop-opacity', [('30%', 0.3)], ['a']),
    ('stroke-dasharray', [('1 2', (1.0, 2.0)), ('3px, 4px', (3.0, 4.0)), ('none', ())], ['-1', 'a']),
    ('stroke-linecap', [('round', 'round')], ['flat']),
    ('stroke-linejoin', [('bevel', 'bevel')], ['sharp']),
    ('stroke-miterlimit', [('2', 2.0)], ['.5']),
    ('stroke-width', [('2', 2.0), ('3mm', 11.338583)], ['-1']),
    ('tab-size', [('4', Factor(4.0)), ('20px', 20.0)], ['-1']),
    ('table-layout', [('fixed', 'fixed')], ['even']),
    ('text-align', [('center', 'center'), ('end', 'end'), ('justify', 'justify'), ('"."', '".')], ['middle']),
    ('text-align-last', [('justify', 'justify')], ['middle']),
    ('text-anchor', [('middle', 'middle')], ['center']),
    ('text-decoration-line', [('underline', ('underline',)), ('underline overline', ('underline', 'overline')),
     ('none', ()), ('line-through', ('line-through',))], ['below', 'underline underline']),
    ('text-decoration-skip-ink', [('none', 'none')], ['some']),
    ('text-decoration-style', [('wavy', 'wavy'), ('double', 'double')], ['zigzag']),
    ('text-decoration-thickness', [('3px', 3.0), ('from-font', 'from-font'), ('10%', share(0.1))], ['-1px-a']),
    ('text-emphasis-position', [('under', 'under'), ('over right', 'over')], ['above']),
    ('text-indent', [('2em', Unresolved(2, "em")), ('10%', share(0.1)), ('-5px', -5.0)], ['auto']),
    ('text-overflow', [('ellipsis', 'ellipsis')], ['dots']),
    ('text-transform', [('uppercase', 'uppercase'), ('capitalize', 'capitalize')], ['title']),
    ('text-underline-offset', [('3px', 3.0), ('auto', 'auto')], ['none']),
    ('text-wrap', [('balance', 'balance'), ('nowrap', 'nowrap'), ('pretty', 'pretty')], ['tidy']),
    ('top', [('1px', 1.0)], ['none']),
    ('transform-origin', [('left', (share(0), share(0.5))), ('10px 20px', (10.0, 20.0)), ('top right', (share(1),
     share(0)))], ['1px 2px 3px 4px']),
    ('unicode-bidi', [('isolate', 'isolate'), ('bidi-override', 'bidi-override')], ['mix']),
    ('vertical-align', [('middle', 'middle'), ('5px', 5.0), ('50%', share(0.5)), ('super', 'super'), ('text-top',
     'text-top')], ['center']),
    ('visibility', [('hidden', 'hidden'), ('collapse', 'collapse')], ['none']),
    ('white-space', [('nowrap', 'nowrap'), ('pre-line', 'pre-line')], ['wrap']),
    ('widows', [('1', 1)], ['0']),
    ('width', [('10px', 10.0), ('50%', share(0.5)), ('auto', 'auto'), ('fit-content', 'fit-content'),
     ('min-content', 'min-content'), ('calc(50% - 10px)', Sum('calc', (Sum('-', (share(0.5), 10.0)),))), ('0',
     0.0)], ['-1px', 'none', '5', 'calc(1px + 2)']),
    ('word-break', [('break-all', 'break-all'), ('keep-all', 'keep-all')], ['break']),
    ('word-spacing', [('2px', 2.0), ('normal', 0.0), ('.5em', Unresolved(0.5, "em"))], ['5']),
    ('text-orientation', [('upright', 'upright'), ('sideways', 'sideways')], ['vertical']),
    ('writing-mode', [('horizontal-tb', 'horizontal-tb')], ['sideways']),
    ('z-index', [('3', 3), ('-1', -1), ('auto', 'auto')], ['1.5', 'a']),
]  # fmt: skip
SET = [(name, value, wanted) for name, values, _ in VALUES for value, wanted in values]
REFUSED = [(name, value) for name, _, values in VALUES for value in values]


@pytest.mark.parametrize(("name", "value", "wanted"), SET, ids=[f"{name}:{value}" for name, value, _ in SET])
def test_a_value_comes_to(name, value, wanted):
    assert roughly(declared(name, value)) == roughly({PROPERTIES[name].field: wanted})


@pytest.mark.parametrize(("name", "value"), REFUSED, ids=[f"{name}:{value}" for name, value in REFUSED])
def test_what_is_no_value_of_a_property_is_not_understood(name, value):
    assert declared(name, value) is None


SHORTHANDS = [
    ('margin', '1px', {'margin_top': 1.0, 'margin_right': 1.0, 'margin_bottom': 1.0, 'margin_left': 1.0}),
    ('margin', '1px 2px', {'margin_top': 1.0, 'margin_right': 2.0, 'margin_bottom': 1.0, 'margin_left': 2.0}),
    ('margin', '1px 2px 3px', {'margin_top': 1.0, 'margin_right': 2.0, 'margin_bottom': 3.0, 'margin_left': 2.0}),
    ('margin', '1px 2px 3px 4px', {'margin_top': 1.0, 'margin_right': 2.0, 'margin_bottom': 3.0, 'margin_left': 4.0}),
    ('margin', 'auto', {'margin_top': 'auto', 'margin_right': 'auto', 'margin_bottom': 'auto', 'margin_left':
     'auto'}),
    ('padding', '1px 2px', {'padding_top': 1.0, 'padding_right': 2.0, 'padding_bottom': 1.0, 'padding_left': 2.0}),
    ('inset', '0 auto', {'top': 0.0, 'right': 'auto', 'bottom': 0.0, 'left': 'auto'}),
    ('border-left', '1px solid red', {'border_left_width': 1.0, 'border_left_style': 'solid', 'border_left_color':
     RED}),
    ('border-left', 'none', {'border_left_width': 3.0, 'border_left_style': 'none', 'border_left_color': None}),
    ('border-left', 'solid', {'border_left_width': 3.0, 'border_left_style': 'solid', 'border_left_color': None}),
    ('border-left', '2px', {'border_left_width': 2.0, 'border_left_style': 'none', 'border_left_color': None}),
    ('border-left', 'red', {'border_left_width': 3.0, 'border_left_style': 'none', 'border_left_color': RED}),
    ('border-top', 'thick double', {'border_top_width': 'thick', 'border_top_style': 'double', 'border_top_color':
     None}),
    ('border-width', 'thin 2px', {'border_top_width': 'thin', 'border_right_width': 2.0, 'border_bottom_width':
     'thin', 'border_left_width': 2.0}),
    ('border-style', 'solid none', {'border_top_style': 'solid', 'border_right_style': 'none',
     'border_bottom_style': 'solid', 'border_left_style': 'none'}),
    ('border-color', 'red blue', {'border_top_color': RED, 'border_right_color': BLUE, 'border_bottom_color': RED,
     'border_left_color': BLUE}),
    ('border-radius', '1px 2px', {'border_top_left_radius': (1.0, 1.0), 'border_top_right_radius': (2.0, 2.0),
     'border_bottom_right_radius': (1.0, 1.0), 'border_bottom_left_radius': (2.0, 2.0)}),
    ('border-radius', '1px / 2px', {'border_top_left_radius': (1.0, 2.0), 'border_top_right_radius': (1.0, 2.0),
     'border_bottom_right_radius': (1.0, 2.0), 'border_bottom_left_radius': (1.0, 2.0)}),
    ('border-radius', '10%', {'border_top_left_radius': (share(0.1), share(0.1)), 'border_top_right_radius':
     (share(0.1), share(0.1)), 'border_bottom_right_radius': (share(0.1), share(0.1)), 'border_bottom_left_radius':
     (share(0.1), share(0.1))}),
    ('outline', '1px dotted red', {'outline_width': 1.0, 'outline_style': 'dotted', 'outline_color': RED}),
    ('outline', 'auto', {'outline_width': 3.0, 'outline_style': 'auto', 'outline_color': None}),
    ('overflow', 'hidden visible', {'overflow': 'hidden'}),
    ('overflow', 'hidden', {'overflow': 'hidden'}),
    ('font', 'italic bold 12px/1.5 serif', {'font_variant_caps': 'normal', 'font_variant_numeric': (),
     'font_variant_ligatures': (), 'font_variant_position': 'normal', 'font_feature_settings': (), 'font_kerning':
     'auto', 'font_style': 'italic', 'font_weight': 700, 'font_stretch': 100.0, 'line_height': Factor(1.5),
     'font_size': 12.0, 'font_family': ('serif',)}),
    ('font', '10px a, b', {'font_variant_caps': 'normal', 'font_variant_numeric': (), 'font_variant_ligatures': (),
     'font_variant_position': 'normal', 'font_feature_settings': (), 'font_kerning': 'auto', 'font_style': 'normal',
     'font_weight': 400, 'font_stretch': 100.0, 'line_height': 'normal', 'font_size': 10.0, 'font_family': ('a',
     'b')}),
    ('font', 'small-caps 2em x', {'font_variant_caps': 'small-caps', 'font_variant_numeric': (),
     'font_variant_ligatures': (), 'font_variant_position': 'normal', 'font_feature_settings': (), 'font_kerning':
     'auto', 'font_style': 'normal', 'font_weight': 400, 'font_stretch': 100.0, 'line_height': 'normal',
     'font_size': Unresolved(2, "em"), 'font_family': ('x',)}),
    ('font', 'condensed 300 1px/2px "a b"', {'font_variant_caps': 'normal', 'font_variant_numeric': (),
     'font_variant_ligatures': (), 'font_variant_position': 'normal', 'font_feature_settings': (), 'font_kerning':
     'auto', 'font_style': 'normal', 'font_weight': 300, 'font_stretch': 75.0, 'line_height': 2.0, 'font_size': 1.0,
     'font_family': ('a b',)}),
    ('font-variant', 'small-caps tabular-nums', {'font_variant_caps': 'small-caps', 'font_variant_numeric':
     ('tabular-nums',), 'font_variant_ligatures': (), 'font_variant_position': 'normal'}),
    ('font-variant', 'normal', {'font_variant_caps': 'normal', 'font_variant_numeric': (), 'font_variant_ligatures':
     (), 'font_variant_position': 'normal'}),
    ('font-variant', 'none', {'font_variant_caps': 'normal', 'font_variant_numeric': (), 'font_variant_ligatures':
     ('none',), 'font_variant_position': 'normal'}),
    ('text-decoration', 'underline dotted red', {'text_decoration_line': ('underline',), 'text_decoration_style':
     'dotted', 'text_decoration_color': RED, 'text_decoration_thickness': 'auto'}),
    ('text-decoration', 'none', {'text_decoration_line': (), 'text_decoration_style': 'solid',
     'text_decoration_color': None, 'text_decoration_thickness': 'auto'}),
    ('text-decoration', 'overline 2px', {'text_decoration_line': ('overline',), 'text_decoration_style': 'solid',
     'text_decoration_color': None, 'text_decoration_thickness': 2.0}),
    ('flex', '1', {'flex_grow': 1.0, 'flex_shrink': 1.0, 'flex_basis': 0.0}),
    ('flex', '1 2', {'flex_grow': 1.0, 'flex_shrink': 2.0, 'flex_basis': 0.0}),
    ('flex', '1 2 3px', {'flex_grow': 1.0, 'flex_shrink': 2.0, 'flex_basis': 3.0}),
    ('flex', 'auto', {'flex_grow': 1.0, 'flex_shrink': 1.0, 'flex_basis': 'auto'}),
    ('flex', 'none', {'flex_grow': 0.0, 'flex_shrink': 0.0, 'flex_basis': 'auto'}),
    ('flex', '10px', {'flex_grow': 1.0, 'flex_shrink': 1.0, 'flex_basis': 10.0}),
    ('flex', '2 30%', {'flex_grow': 2.0, 'flex_shrink': 1.0, 'flex_basis': share(0.3)}),
    ('flex-flow', 'column wrap', {'flex_direction': 'column', 'flex_wrap': 'wrap'}),
    ('flex-flow', 'wrap', {'flex_direction': 'row', 'flex_wrap': 'wrap'}),
    ('gap', '1px', {'row_gap': 1.0, 'column_gap': 1.0}),
    ('gap', '1px 2px', {'row_gap': 1.0, 'column_gap': 2.0}),
    ('grid-row', '1 / 3', {'grid_row_start': Line(1, '', False), 'grid_row_end': Line(3, '', False)}),
    ('grid-row', 'span 2', {'grid_row_start': Line(2, '', True), 'grid_row_end': 'auto'}),
    ('grid-row', 'a', {'grid_row_start': Line(0, 'a', False), 'grid_row_end': Line(0, 'a', False)}),
    ('grid-column', '2 / span 3', {'grid_column_start': Line(2, '', False), 'grid_column_end': Line(3, '', True)}),
    ('grid-area', 'a', {'grid_row_start': Line(0, 'a', False), 'grid_column_start': Line(0, 'a', False),
     'grid_row_end': Line(0, 'a', False), 'grid_column_end': Line(0, 'a', False)}),
    ('grid-area', '1 / 2 / 3 / 4', {'grid_row_start': Line(1, '', False), 'grid_column_start': Line(2, '', False),
     'grid_row_end': Line(3, '', False), 'grid_column_end': Line(4, '', False)}),
    ('grid-area', '1 / 2', {'grid_row_start': Line(1, '', False), 'grid_column_start': Line(2, '', False),
     'grid_row_end': 'auto', 'grid_column_end': 'auto'}),
    ('grid-template', 'none', {'grid_template_rows': (), 'grid_template_columns': (), 'grid_template_areas': ()}),
    ('grid-template', '10px / 20px', {'grid_template_rows': (Track(10.0, 10.0),), 'grid_template_columns':
     (Track(20.0, 20.0),), 'grid_template_areas': ()}),
    ('grid-template', '"a" 10px "b" 20px / 1fr', {'grid_template_rows': (Track(10.0, 10.0), Track(20.0, 20.0)),
     'grid_template_columns': (Track('auto', Fraction(1.0)),), 'grid_template_areas': (('a',), ('b',))}),
    ('place-content', 'center', {'align_content': 'center', 'justify_content': 'center'}),
    ('place-content', 'start end', {'align_content': 'start', 'justify_content': 'end'}),
    ('place-items', 'center start', {'align_items': 'center', 'justify_items': 'start'}),
    ('place-self', 'end', {'align_self': 'end', 'justify_self': 'end'}),
    ('columns', '2', {'column_count': 2, 'column_width': 'auto'}),
    ('columns', '10em', {'column_count': 'auto', 'column_width': Unresolved(10, "em")}),
    ('columns', '2 10em', {'column_count': 2, 'column_width': Unresolved(10, "em")}),
    ('columns', 'auto 3', {'column_count': 3, 'column_width': 'auto'}),
    ('columns', 'auto', {'column_count': 'auto', 'column_width': 'auto'}),
    ('column-rule', '1px solid red', {'column_rule_width': 1.0, 'column_rule_style': 'solid', 'column_rule_color':
     RED}),
    ('list-style', 'square inside', {'list_style_position': 'inside', 'list_style_image': 'none', 'list_style_type':
     'square'}),
    ('list-style', 'none', {'list_style_position': 'outside', 'list_style_image': 'none', 'list_style_type': 'none'}),
    ('list-style', 'url(a.png)', {'list_style_position': 'outside', 'list_style_image': Url('a.png'),
     'list_style_type': 'disc'}),
    ('list-style', '"x" outside', {'list_style_position': 'outside', 'list_style_image': 'none', 'list_style_type':
     '"x'}),
    ('page-break-before', 'always', {'break_before': 'page'}),
    ('page-break-before', 'avoid', {'break_before': 'avoid'}),
    ('page-break-inside', 'avoid', {'break_inside': 'avoid'}),
    ('word-wrap', 'break-word', {'overflow_wrap': 'break-word'}),
    ('background', 'red', {'background_image': ('none',), 'background_position': ((share(0), share(0)),),
     'background_size': (('auto', 'auto'),), 'background_repeat': (('repeat', 'repeat'),), 'background_origin':
     ('padding-box',), 'background_clip': ('border-box',), 'background_attachment': ('scroll',), 'background_color':
     RED}),
    ('background', 'url(a.png) no-repeat center / cover red', {'background_image': (Url('a.png'),),
     'background_position': ((share(0.5), share(0.5)),), 'background_size': ('cover',), 'background_repeat':
     (('no-repeat', 'no-repeat'),), 'background_origin': ('padding-box',), 'background_clip': ('border-box',),
     'background_attachment': ('scroll',), 'background_color': RED}),
    ('background', 'none', {'background_image': ('none',), 'background_position': ((share(0), share(0)),),
     'background_size': (('auto', 'auto'),), 'background_repeat': (('repeat', 'repeat'),), 'background_origin':
     ('padding-box',), 'background_clip': ('border-box',), 'background_attachment': ('scroll',), 'background_color':
     NOTHING}),
    ('border-image', 'url(a.png) 10 / 5px / 2 round', {'border_image_source': Url('a.png'), 'border_image_slice':
     Slices((10.0, 10.0, 10.0, 10.0), False), 'border_image_width': (5.0, 5.0, 5.0, 5.0), 'border_image_outset':
     (Times(2.0), Times(2.0), Times(2.0), Times(2.0)), 'border_image_repeat': ('round', 'round')}),
    ('border-image', 'none', {'border_image_source': 'none', 'border_image_slice': Slices((share(1), share(1),
     share(1), share(1)), False), 'border_image_width': (Times(1.0), Times(1.0), Times(1.0), Times(1.0)),
     'border_image_outset': (Times(0.0), Times(0.0), Times(0.0), Times(0.0)), 'border_image_repeat': ('stretch',
     'stretch')}),
    ('mask', 'url(#a)', {'mask_image': (Url('#a'),), 'mask_position': ((share(0), share(0)),), 'mask_size':
     (('auto', 'auto'),), 'mask_repeat': (('repeat', 'repeat'),), 'mask_origin': ('border-box',), 'mask_clip':
     ('border-box',), 'mask_mode': ('match-source',), 'mask_composite': ('add',)}),
    ('mask', 'none', {'mask_image': ('none',), 'mask_position': ((share(0), share(0)),), 'mask_size': (('auto',
     'auto'),), 'mask_repeat': (('repeat', 'repeat'),), 'mask_origin': ('border-box',), 'mask_clip':
     ('border-box',), 'mask_mode': ('match-source',), 'mask_composite': ('add',)}),
    ('margin-inline', '1px 2px', {'inline:margin_left': 1.0, 'inline:margin_right': 2.0}),
    ('padding-block', '3px', {'padding_top': 3.0, 'padding_bottom': 3.0}),
    ('border-inline-start', '1px solid red', {'inline:border_left_width': 1.0, 'inline:border_left_style': 'solid',
     'inline:border_left_color': RED}),
    ('inset-inline-end', '3px', {'inline:right': 3.0}),
    ('margin-block-start', 'auto', {'margin_top': 'auto'}),
    ('inline-size', '5px', {'width': 5.0}),
    ('max-block-size', '5px', {'max_height': 5.0}),
]  # fmt: skip
NO_SHORTHANDS = [
    ('margin', '1px 2px 3px 4px 5px'), ('margin', 'none'), ('padding', '-1px'), ('padding', 'auto'), ('inset',
     'none'), ('border-left', '1px 2px'), ('border-left', 'solid dashed'), ('border-left', '1px solid red blue'),
     ('border-top', 'thick thin'), ('border-width', '-1px'), ('border-style', 'wavy'), ('border-color', 'none'),
     ('border-radius', '1px /'), ('border-radius', '-1px'), ('border-radius', '1px 2px 3px 4px 5px'), ('outline',
     '1px 2px'), ('overflow', 'hidden visible hidden'), ('font', '12px'), ('font', 'bold serif'), ('font',
     '12px/ serif'), ('font-variant', 'small-caps small-caps'), ('font-variant', 'sub super'), ('font-variant',
     'normal small-caps'), ('font-variant', 'lining-nums oldstyle-nums'), ('text-decoration', 'underline blink3'),
     ('text-decoration', '2px 3px'), ('flex', '1 2 3 4'), ('flex', '-1'), ('flex-flow', 'column row'), ('gap',
     '-1px'), ('gap', '1px 2px 3px'), ('grid-row', '1 / 2 / 3'), ('grid-column', '0'), ('grid-area',
     '1 / 2 / 3 / 4 / 5'), ('grid-template', '10px'), ('place-content', 'a'), ('place-items', 'between'),
     ('place-self', 'a'), ('columns', '2 3'), ('columns', '1px 2px'), ('columns', '-1px'), ('columns', '1 2 3'),
     ('column-rule', '1px 1px'), ('list-style', 'square circle'), ('page-break-before', 'page'),
     ('page-break-inside', 'always'), ('page-break-inside', 'left'), ('word-wrap', 'x'), ('background', 'red blue'),
     ('background', 'center /'), ('background', 'url(a) red, blue'), ('border-image', '10 20 30 40 50'), ('mask',
     '5'), ('margin-inline', '1px 2px 3px'), ('padding-block', '-3px'), ('border-inline-start', '1px 1px'),
     ('inset-inline-end', 'none'), ('margin-block-start', 'none'), ('inline-size', '-5px'), ('max-block-size',
     'auto')
]  # fmt: skip


@pytest.mark.parametrize(
    ("name", "value", "wanted"), SHORTHANDS, ids=[f"{name}:{value}" for name, value, _ in SHORTHANDS]
)
def test_a_shorthand_sets(name, value, wanted):
    assert roughly(declared(name, value)) == roughly(wanted)


@pytest.mark.parametrize(("name", "value"), NO_SHORTHANDS, ids=[f"{name}:{value}" for name, value in NO_SHORTHANDS])
def test_what_is_no_value_of_a_shorthand_is_not_understood(name, value):
    assert declared(name, value) is None


RESET = {
    "border: 1px solid": ("source", "slice", "width", "outset", "repeat"),
    "font: 12px serif": ("variant-numeric", "variant-ligatures", "variant-position", "feature-settings", "kerning"),
}


@pytest.mark.parametrize("declaration", RESET)
def test_a_shorthand_resets_what_it_cannot_say(declaration):
    """CSS Backgrounds 3 §3.4, CSS Fonts 4 §3."""
    name, value = declaration.split(": ")
    found = declared(name, value)
    for part in RESET[declaration]:
        row = PROPERTIES[f"border-image-{part}" if name == "border" else f"font-{part}"]
        assert found[row.field] == row.initial


INHERITED = """
border-collapse border-spacing caption-side clip-rule color color-interpolation-filters
direction dominant-baseline empty-cells fill fill-opacity fill-rule
font-family font-feature-settings font-kerning font-size font-stretch font-style
font-synthesis font-variant-caps font-variant-emoji font-variant-ligatures font-variant-numeric font-variant-position font-weight
hyphenate-character hyphenate-limit-chars hyphens image-orientation image-rendering image-resolution
letter-spacing line-break line-height line-snap list-style-image list-style-position
list-style-type marker-end marker-mid marker-start orphans overflow-wrap
paint-order quotes stroke stroke-dasharray stroke-dashoffset stroke-linecap
stroke-linejoin stroke-miterlimit stroke-opacity stroke-width tab-size text-align
text-align-last text-anchor text-decoration-skip-ink text-emphasis-color text-emphasis-position text-emphasis-style
text-indent text-orientation text-shadow text-transform text-underline-offset text-wrap visibility
white-space widows word-break word-spacing writing-mode -webkit-text-fill-color
-webkit-text-stroke-color -webkit-text-stroke-width -fq-cell-hints -fq-overrun
""".split()
INITIAL = [
    ('align-content', 'normal'), ('align-items', 'normal'), ('align-self', 'auto'), ('aspect-ratio', 'auto'),
     ('background-attachment', 'scroll'), ('background-blend-mode', 'normal'), ('background-clip', 'border-box'),
     ('background-color', 'transparent'), ('background-origin', 'padding-box'), ('background-position', '0% 0%'),
     ('background-repeat', 'repeat'), ('background-size', 'auto'), ('bookmark-level', 'none'), ('bookmark-state',
     'open'), ('border-bottom-left-radius', '0'), ('border-collapse', 'separate'), ('border-image-outset', '0'),
     ('border-image-repeat', 'stretch'), ('border-image-slice', '100%'), ('border-image-source', 'none'),
     ('border-image-width', '1'), ('border-left-style', 'none'), ('border-spacing', '0'), ('bottom', 'auto'),
     ('box-decoration-break', 'slice'), ('box-shadow', 'none'), ('box-sizing', 'content-box'), ('break-after',
     'auto'), ('break-before', 'auto'), ('break-inside', 'auto'), ('caption-side', 'top'), ('clear', 'none'),
     ('clip-path', 'none'), ('clip-rule', 'nonzero'), ('color', 'black'), ('column-count', 'auto'), ('column-fill',
     'balance'), ('column-gap', 'normal'), ('column-rule-style', 'none'), ('column-span', 'none'), ('column-width',
     'auto'), ('content', 'normal'), ('counter-increment', 'none'), ('counter-reset', 'none'), ('counter-set',
     'none'), ('direction', 'ltr'), ('display', 'inline'), ('dominant-baseline', 'auto'), ('empty-cells', 'show'),
     ('fill', 'black'), ('fill-opacity', '1'), ('fill-rule', 'nonzero'), ('filter', 'none'), ('flex-basis', 'auto'),
     ('flex-direction', 'row'), ('flex-grow', '0'), ('flex-shrink', '1'), ('flex-wrap', 'nowrap'), ('float',
     'none'), ('flood-color', 'black'), ('flood-opacity', '1'), ('font-feature-settings', 'normal'),
     ('font-kerning', 'auto'), ('font-stretch', 'normal'), ('font-style', 'normal'), ('font-synthesis',
     'weight style'), ('font-variant-caps', 'normal'), ('font-variant-ligatures', 'normal'),
     ('font-variant-numeric', 'normal'), ('font-variant-position', 'normal'), ('font-weight', '400'),
     ('grid-auto-columns', 'auto'), ('grid-auto-flow', 'row'), ('grid-column-start', 'auto'),
     ('grid-template-areas', 'none'), ('grid-template-columns', 'none'), ('height', 'auto'), ('hyphenate-character',
     'auto'), ('hyphenate-limit-chars', 'auto'), ('hyphens', 'manual'), ('image-orientation', 'from-image'),
     ('image-rendering', 'auto'), ('isolation', 'auto'), ('justify-content', 'normal'), ('justify-self', 'auto'),
     ('left', 'auto'), ('letter-spacing', 'normal'), ('line-break', 'auto'), ('line-clamp', 'none'), ('line-height',
     'normal'), ('list-style-image', 'none'), ('list-style-position', 'outside'), ('list-style-type', 'disc'),
     ('margin-top', '0'), ('marks', 'none'), ('mask-clip', 'border-box'), ('mask-composite', 'add'), ('mask-mode',
     'match-source'), ('mask-origin', 'border-box'), ('mask-position', '0% 0%'), ('mask-repeat', 'repeat'),
     ('mask-size', 'auto'), ('mask-type', 'luminance'), ('max-height', 'none'), ('max-width', 'none'),
     ('min-height', 'auto'), ('min-width', 'auto'), ('mix-blend-mode', 'normal'), ('object-fit', 'fill'),
     ('object-position', '50% 50%'), ('opacity', '1'), ('order', '0'), ('orphans', '2'), ('outline-offset', '0'),
     ('outline-style', 'none'), ('overflow', 'visible'), ('overflow-wrap', 'normal'), ('padding-left', '0'),
     ('page', 'auto'), ('page-orientation', 'upright'), ('paint-order', 'normal'), ('position', 'static'),
     ('quotes', 'auto'), ('row-gap', 'normal'), ('size', 'auto'), ('stop-color', 'black'), ('stop-opacity', '1'),
     ('string-set', 'none'), ('stroke', 'none'), ('stroke-dasharray', 'none'), ('stroke-dashoffset', '0'),
     ('stroke-linecap', 'butt'), ('stroke-linejoin', 'miter'), ('stroke-miterlimit', '4'), ('stroke-opacity', '1'),
     ('stroke-width', '1px'), ('tab-size', '8'), ('table-layout', 'auto'), ('text-align', 'start'),
     ('text-align-last', 'auto'), ('text-anchor', 'start'), ('text-decoration-line', 'none'),
     ('text-decoration-skip-ink', 'auto'), ('text-decoration-style', 'solid'), ('text-decoration-thickness',
     'auto'), ('text-emphasis-style', 'none'), ('text-indent', '0'), ('text-orientation', 'mixed'), ('text-overflow', 'clip'), ('text-shadow',
     'none'), ('text-transform', 'none'), ('text-underline-offset', 'auto'), ('text-wrap', 'wrap'), ('top', 'auto'),
     ('transform', 'none'), ('transform-box', 'view-box'), ('transform-origin', '50% 50%'), ('translate', 'none'),
     ('scale', 'none'), ('rotate', 'none'), ('unicode-bidi', 'normal'), ('vector-effect', 'none'),
     ('vertical-align', 'baseline'), ('visibility', 'visible'), ('white-space', 'normal'), ('widows', '2'),
     ('width', 'auto'), ('word-break', 'normal'), ('word-spacing', 'normal'), ('writing-mode', 'horizontal-tb'),
     ('z-index', 'auto'),
]  # fmt: skip


def test_these_properties_are_inherited_and_no_others():
    assert sorted(INHERITED) == sorted(name for name, row in PROPERTIES.items() if row.inherits)


@pytest.mark.parametrize(("name", "value"), INITIAL, ids=[name for name, _ in INITIAL])
def test_the_initial_value_is(name, value):
    assert declared(name, value) == {PROPERTIES[name].field: PROPERTIES[name].initial}


def roughly(value):
    """A value with its numbers cut to six places."""
    if isinstance(value, dict):
        return {name: roughly(part) for name, part in value.items()}
    if isinstance(value, tuple):
        return (type(value).__name__, *map(roughly, value))
    return round(value, 6) if isinstance(value, float) else value
