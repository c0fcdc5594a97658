"""Treatments at random, for properties."""

from hypothesis import strategies as st

from zembi.core.treatments.model import (
    BackAndForth,
    Bars,
    Blend,
    Blur,
    Dip,
    Dissolve,
    Drift,
    Fade,
    FitSlot,
    Flash,
    Flicker,
    Freeze,
    Glow,
    Grain,
    JumpCuts,
    Mirror,
    MomentOnBeat,
    Pulse,
    PunchIn,
    Ramp,
    Reverse,
    Rewind,
    Shake,
    Sharpen,
    Slide,
    Speed,
    StepUp,
    Strobe,
    Stutter,
    Treatment,
    Turn,
    Vignette,
    Whip,
    ZoomThrough,
)
from zembi.core.treatments.music import Length, On, Place

lengths = st.builds(
    Length, st.floats(0, 8).map(lambda v: round(v, 3)), st.sampled_from(["frames", "beats", "bars"])
)
places = st.builds(Place, st.integers(1, 18), st.sampled_from([1.0, 1.5, 2.0, 3.0, 4.75]))
music = st.builds(
    On,
    st.sampled_from(["beat", "half beat", "bar", "phrase", "mark", "low", "mid", "high"]),
    st.floats(0, 1),
    st.integers(1, 5),
    st.integers(0, 3),
)
seconds = st.floats(0, 12)
speeds = st.floats(0.05, 4)
shapes = st.sampled_from(["straight", "smooth", "slow start", "slow end", "sharp"])
colours = st.sampled_from(["#000000", "#ffffff", "#c04020"])
share = st.floats(0, 1)
where = st.sampled_from(["before", "centred", "after"])
ways = st.sampled_from(["left", "right", "up", "down"])

#: Those of time that can be done anywhere.
anywhere: st.SearchStrategy[Treatment] = st.one_of(
    st.builds(Speed, speeds, st.sampled_from(["head", "tail"])),
    st.builds(Ramp, st.lists(speeds, min_size=2, max_size=4).map(tuple), over=lengths, ease=st.sampled_from(["straight", "smooth", "sharp"])),
    st.builds(Reverse),
    st.builds(Freeze, on=st.none() | music, over=lengths, after=st.sampled_from(["goes on", "catches up"])),
    st.builds(BackAndForth, lengths),
    st.builds(Stutter, on=st.none() | music, piece=lengths, times=st.none() | st.integers(1, 9), after=st.sampled_from(["goes on", "catches up"])),
    st.builds(JumpCuts, music, st.none() | lengths),
)  # fmt: skip
#: Those of the picture.
pictures: st.SearchStrategy[Treatment] = st.one_of(
    st.builds(Strobe, lengths, st.floats(0.01, 0.99), colours, st.booleans()),
    st.builds(Fade, st.sampled_from(["in", "out"]), lengths, colours, st.booleans(), shapes),
    st.builds(Pulse, st.sampled_from(["scale", "lightness", "shift", "turn"]), st.floats(-0.5, 0.5), music, lengths, lengths, st.booleans()),
    st.builds(StepUp, st.sampled_from(["scale", "lightness", "turn"]), st.floats(-0.3, 0.5), music, lengths),
    st.builds(Shake, st.floats(0, 0.1), st.floats(0, 5), lengths, st.integers(0, 99)),
    st.builds(Flash, music, colours, share, lengths),
    st.builds(PunchIn, st.floats(1, 4), share, share),
    st.builds(Drift, st.floats(1, 3), share, share, st.floats(1, 3), share, share, shapes),
    st.builds(Mirror), st.builds(Turn, st.floats(-90, 90)), st.builds(Bars, st.floats(0.5, 3)), st.builds(Vignette, share),
    st.builds(Blur, st.floats(0, 0.25), st.sampled_from(["in", "out", "all"]), lengths, shapes),
    st.builds(Sharpen, st.floats(0, 3)), st.builds(Glow, share), st.builds(Grain, share, st.integers(0, 99)),
)  # fmt: skip
treatments: st.SearchStrategy[Treatment] = st.one_of(
    anywhere,
    pictures,
    st.builds(Blend, st.sampled_from(["mixed", "moved"])),
    st.builds(FitSlot, seconds, seconds),
    st.builds(MomentOnBeat, seconds, places, st.sampled_from(["head", "tail"]), st.none() | seconds, st.sampled_from(["same", "normal"]), st.none() | seconds, st.none() | places),
    st.builds(Rewind, places, places, lengths, st.booleans()),
    st.builds(Dissolve, lengths, where, shapes),
    st.builds(Slide, ways, lengths, where, shapes), st.builds(Whip, ways, lengths, where, st.floats(0, 0.25)),
    st.builds(ZoomThrough, st.floats(1, 10), lengths, where, st.floats(0, 0.25)), st.builds(Flicker, lengths, where, lengths),
    st.builds(Dip, lengths, where, colours, shapes),
)  # fmt: skip
