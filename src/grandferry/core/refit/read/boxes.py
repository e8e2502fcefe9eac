"""Plain boxes and old wrappers: elements that are not unknown, and say nothing of what they hold."""

BOXES = frozenset(
    (
        "html body div section article main header footer nav aside center address hgroup search fieldset "
        "legend noframes frameset dialog label span font a b i em strong small big u s strike tt nobr blink "
        "marquee ins del sub sup mark q cite abbr acronym bdi bdo code kbd samp var dfn time data output "
        "picture slot optgroup option rb rp rt rtc spacer multicol layer ilayer nolayer"
    ).split()
)
