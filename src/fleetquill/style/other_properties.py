"""Properties of CSS that this engine does not carry out: those that mean nothing on paper, and those that would."""

from __future__ import annotations

from typing import Final

SCREEN_ONLY: Final = frozenset(  # passed over without a remark
    """
    accent-color animation animation-composition animation-delay animation-direction animation-duration
    animation-fill-mode animation-iteration-count animation-name animation-play-state animation-range
    animation-timeline animation-timing-function anchor-name anchor-scope appearance backface-visibility caret
    color-adjust caret-animation caret-color caret-shape color-scheme contain contain-intrinsic-block-size
    contain-intrinsic-height contain-intrinsic-inline-size contain-intrinsic-size contain-intrinsic-width container
    container-name container-type content-visibility cursor field-sizing forced-color-adjust
    ime-mode interactivity interpolate-size overflow-anchor overlay overscroll-behavior overscroll-behavior-block
    overscroll-behavior-inline overscroll-behavior-x overscroll-behavior-y pointer-events position-anchor
    position-area position-try position-visibility print-color-adjust reading-flow reading-order resize
    scroll-behavior scroll-initial-target scroll-margin scroll-margin-block scroll-margin-block-end
    scroll-margin-block-start scroll-margin-bottom scroll-margin-inline scroll-margin-inline-end
    scroll-margin-inline-start scroll-margin-left scroll-margin-right scroll-margin-top scroll-marker-group
    scroll-padding scroll-padding-block scroll-padding-block-end scroll-padding-block-start scroll-padding-bottom
    scroll-padding-inline scroll-padding-inline-end scroll-padding-inline-start scroll-padding-left
    scroll-padding-right scroll-padding-top scroll-snap-align scroll-snap-stop scroll-snap-type scroll-timeline
    scroll-timeline-axis scroll-timeline-name scrollbar-color scrollbar-gutter scrollbar-width speak speak-as
    text-rendering text-size-adjust timeline-scope touch-action transition transition-behavior
    transition-delay transition-duration transition-property transition-timing-function user-modify user-select
    view-timeline view-timeline-axis view-timeline-inset view-timeline-name view-transition-class
    view-transition-name voice-family will-change
    -moz-appearance -moz-osx-font-smoothing -moz-user-select -ms-user-select -webkit-appearance -webkit-box-orient
    -webkit-font-smoothing -webkit-print-color-adjust -webkit-tap-highlight-color -webkit-text-size-adjust
    -webkit-user-select
    """.split()
)

NOT_CARRIED_OUT: Final = frozenset(  # of the standards, too, but a remark where they would change the page
    """
    animation-range-end animation-range-start backdrop-filter background-position-block
    background-position-inline background-position-x background-position-y block-step box-snap break-variant
    d dynamic-range-limit font-language-override font-optical-sizing font-palette font-size-adjust
    font-synthesis-position font-variation-settings hanging-punctuation
    hyphenate-limit-last hyphenate-limit-lines hyphenate-limit-zone inline-sizing initial-letter-align
    initial-letter-wrap line-fit-edge line-height-step margin-trim math-depth math-shift math-style
    object-view-box offset offset-anchor offset-distance offset-path offset-position offset-rotate
    overflow-block overflow-clip-margin overflow-inline perspective perspective-origin region-fragment
    ruby-align ruby-merge ruby-overhang ruby-position shape-image-threshold shape-inside shape-margin
    shape-outside shape-padding shape-rendering text-align-all text-autospace text-box text-box-edge
    text-box-trim text-combine-upright text-decoration-inset text-decoration-skip text-decoration-skip-box
    text-decoration-skip-spaces text-fit text-group-align text-justify text-spacing text-spacing-trim
    text-underline-position text-wrap-mode text-wrap-style transform-style white-space-collapse
    white-space-trim word-space-transform wrap-after wrap-before wrap-flow wrap-inside wrap-through zoom
    """.split()
)

WITHOUT_EFFECT: Final = frozenset(
    "auto none normal initial unset inherit revert flat 0 0px 1 100% collapse wrap".split()
)
