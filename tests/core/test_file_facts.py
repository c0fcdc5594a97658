"""Facts of files and what is said of them: kept as JSON and read again as they were."""

import json
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from zembi.core.footage.files import (
    Facts,
    Said,
    SaidOfFile,
    facts_from_dict,
    facts_to_dict,
    said_from_dict,
    said_of_file_from_dict,
    said_to_dict,
)
from zembi.core.footage.fit import WHOLE, Fit, Framing

WORDS = st.text(max_size=12)
SHARE = st.floats(0, 1)
FITS = st.just(WHOLE) | st.builds(
    Fit,
    how=st.sampled_from(["bars", "fill", "own"]),
    x=SHARE,
    scale=st.floats(0.1, 10),
    turn=st.sampled_from([0, 90, 180, 270]),
    to=st.none() | st.builds(Framing, x=SHARE, y=SHARE, scale=st.floats(0.1, 10)),
)
FACTS = st.builds(
    Facts,
    duration_s=st.floats(0, 1e5),
    width=st.integers(0, 1 << 14),
    rate=st.none() | st.fractions(Fraction(1), Fraction(240)),
    timecode=WORDS,
    still=st.booleans(),
    size=st.integers(-1, 1 << 53),
)
SAID = st.builds(
    Said, rating=st.integers(0, 5), tags=st.lists(WORDS).map(tuple), note=WORDS, moment_s=st.none() | SHARE
)
SAID_OF_FILE = st.builds(
    SaidOfFile,
    rating=st.integers(0, 5),
    tags=st.lists(WORDS).map(tuple),
    in_s=st.none() | SHARE,
    fit=FITS,
    camera=WORDS,
)


@given(FACTS, SAID, SAID_OF_FILE)
def test_what_is_kept_is_read_again_as_it_was(facts: Facts, said: Said, of_file: SaidOfFile) -> None:
    def kept(data: object) -> dict[str, object]:
        again: dict[str, object] = json.loads(json.dumps(data))
        return again

    assert facts_from_dict(kept(facts_to_dict(facts))) == facts
    assert said_from_dict(kept(said_to_dict(said))) == said
    assert said_of_file_from_dict(kept(said_to_dict(of_file))) == of_file


def test_what_is_not_said_is_not_kept_and_what_is_not_known_is_left_out() -> None:
    assert said_to_dict(SaidOfFile()) == {}
    assert said_to_dict(SaidOfFile(rating=3, in_s=0.0)) == {"rating": 3, "in_s": 0.0}
    assert facts_from_dict({"duration_s": 2.0, "rate": "", "of a later version": 1}) == Facts(duration_s=2.0)


def test_a_files_first_frame_is_that_of_its_timecode() -> None:
    assert Facts(timecode="01:00:00:00", rate=Fraction(25)).first_frame == 90_000
    assert Facts(timecode="01:00:00:00").first_frame == 0
    assert Facts(timecode="at noon", rate=Fraction(25)).first_frame == 0
