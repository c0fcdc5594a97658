"""Where films are cut, and which takes are of one set-up: known answers, and what must not be taken for a cut."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from zembi.core.footage.likeness import SIZE, Likeness
from zembi.core.footage.shots import Found, find_shots
from zembi.core.lineup.grouping import Traits, all_alike, camera_in_name, group_takes

Pictures = NDArray[np.uint8]


def place(seed: int) -> NDArray[np.float64]:
    """A place larger than a picture, with things in it."""
    rng = np.random.default_rng(seed)
    out = 40 + 120 * rng.random(3) + 60 * gaussian_filter(rng.normal(size=(90, 160, 3)), (9, 9, 0)) * 9
    for _ in range(40):
        y, x = rng.integers(0, 86), rng.integers(0, 154)
        out[y : y + rng.integers(4, 18), x : x + rng.integers(4, 14)] = rng.uniform(0, 255, 3)
    return np.clip(out, 0, 255)


def views(where: NDArray[np.float64], count: int, x: float = 40, y: float = 20, dx: float = 0.0, grain: float = 1.0,
          light: float = 1.0, seed: int = 0) -> Pictures:  # fmt: skip
    """What a camera sees of a place that moves by ``dx`` a frame."""
    rng = np.random.default_rng(seed)
    out = []
    for n in range(count):
        left, top = int(np.clip(x + dx * n, 0, 96)), int(np.clip(y, 0, 54))
        seen = where[top : top + SIZE[0], left : left + SIZE[1]] * light
        out.append(seen + rng.normal(size=seen.shape) * grain)
    return np.clip(np.array(out), 0, 255).astype(np.uint8)


def found(*parts: Pictures) -> list[Found]:
    return list(find_shots(np.concatenate(parts)))


def cuts(shots: list[Found]) -> list[int]:
    return [s.first for s in shots if s.first and s.begins == "cut"]


@settings(max_examples=25, deadline=None)
@given(st.lists(st.integers(8, 40), min_size=1, max_size=7), st.integers(0, 400))
def test_every_hard_cut_is_found_to_the_frame_and_shots_leave_no_gap(lengths: list[int], seed: int) -> None:
    shots = found(*(views(place(seed + 7 * n), length, seed=n) for n, length in enumerate(lengths)))
    assert cuts(shots) == np.cumsum(lengths)[:-1].tolist()
    assert shots[0].first == 0
    assert shots[-1].end == sum(lengths)
    assert all(a.end == b.first for a, b in pairwise(shots))


@pytest.mark.parametrize(
    "film",
    [
        views(place(1), 60, x=0, dx=1.5),
        views(place(1), 40, x=0, dx=9),
        views(place(1), 60, light=0.12, grain=3),
        np.concatenate([views(place(1), 20), views(place(1), 2, light=2.4), views(place(1), 20)]),
        np.concatenate([views(place(1), 20), np.full((2, *SIZE, 3), 255, np.uint8), views(place(1), 20)]),
        np.concatenate([views(place(1), 3, light=0.05 if n % 2 else 1.0) for n in range(16)]),
    ],
    ids=["pan", "fast pan", "dark", "flash", "white flash", "strobe"],
)
def test_what_is_no_cut(film: Pictures) -> None:
    assert found(film) == [Found(0, len(film))]


@pytest.mark.parametrize("seed", range(0, 40, 5))
@pytest.mark.parametrize("dx", [0.6, 1.5])
def test_a_long_pan_from_one_picture_to_quite_another_is_no_dissolve(seed: int, dx: float) -> None:
    assert all(s.dissolve is None for s in found(views(place(seed), 90, x=0, dx=dx)))


@pytest.mark.parametrize("strobe", [False, True])
def test_a_dissolve_is_found_where_one_side_flashes_or_strobes(strobe: bool) -> None:
    lights = [
        (0.06 if n % 4 < 2 else 1.0) if strobe else (2.2 if n % 17 in (8, 9) else 1.0) for n in range(80)
    ]
    one = np.concatenate([views(place(21), 1, light=light, grain=0.5) for light in lights])
    other = views(place(22), 80, grain=0.5)
    share = ((np.arange(20) + 0.5) / 20)[:, None, None, None]
    mixed = (one[40:60] * (1 - share) + other[:20] * share).round().astype(np.uint8)
    (cut,) = found(one[:40], mixed, other[20:60])[1:]
    assert cut.dissolve is not None
    first, end = cut.dissolve
    assert 2 * (min(end, 60) - max(first, 40)) > max(end - first, 20), "mostly the same range"


def test_a_cut_between_two_framings_of_one_place_is_one() -> None:
    assert cuts(found(views(place(3), 20, x=0, y=0), views(place(3), 20, x=90, y=50))) == [20]


@pytest.mark.parametrize("length", [8, 15, 24, 40])
def test_a_dissolve_is_a_range(length: int) -> None:
    one, other = views(place(11), 90, grain=0.5), views(place(12), 90, grain=0.5)
    share = ((np.arange(length) + 0.5) / length)[:, None, None, None]
    mixed = (one[:length] * (1 - share) + other[:length] * share).round().astype(np.uint8)
    shots = found(one[:40], mixed, other[:40])
    (cut,) = shots[1:]
    assert cut.begins == "dissolve"
    assert cut.dissolve is not None
    assert abs(cut.dissolve[0] - 40) <= 2
    assert abs(cut.dissolve[1] - 40 - length) <= 2
    assert cut.dissolve[0] < cut.first < cut.dissolve[1]


def test_a_long_film_is_looked_at_in_goes_and_none_is_lost_between() -> None:
    lengths = [37] * 40
    shots = found(*(views(place(n), length) for n, length in enumerate(lengths)))
    assert cuts(shots) == np.cumsum(lengths)[:-1].tolist()


def test_no_picture_has_no_shots_and_one_has_one() -> None:
    assert list(find_shots([])) == []
    assert found(views(place(1), 1)) == [Found(0, 1)]


def test_a_moved_picture_is_like_itself_and_another_is_not() -> None:
    looks = Likeness(np.concatenate([views(place(5), 1, x=20), views(place(5), 1, x=32), views(place(6), 1)]))
    near, far = looks.unlike(np.array([0, 0]), np.array([1, 2]))
    assert near < 0.15
    assert far > 0.4


@pytest.mark.parametrize(
    ("name", "camera"),
    [
        ("C0012", "C"), ("A001C003_240101_R2", "A"), ("IMG_0042", "IMG"), ("DJI_0007", "DJI"), ("LOFT_07", "LOFT"),
        ("Wide take 3", "Wide"), ("GAL-02 (1)", "GAL"), ("0042", ""), ("Beam turn", ""), ("30fcb793", ""), ("CAM1_003", "CAM1"),
    ],
)  # fmt: skip
def test_the_camera_in_a_files_name(name: str, camera: str) -> None:
    assert camera_in_name(name) == camera


def grouped(takes: list[tuple[Traits, Pictures | None]]) -> list[list[str]]:
    groups = group_takes([t for t, _ in takes], all_alike([p for _, p in takes]))
    assert sorted(i for g in groups for i in g.takes) == list(range(len(takes)))
    assert all(g.because for g in groups)
    return [[takes[i][0].name for i in g.takes] for g in groups]


def test_two_set_ups_of_a_camera_are_two_and_one_shot_twice_is_one() -> None:
    room = place(21)
    takes: list[tuple[Traits, Pictures | None]] = [
        (Traits("C0001"), views(room, 6, x=0, y=0)), (Traits("C0002"), views(room, 6, x=80, y=50)),
        (Traits("C0003"), views(room, 6, x=0, y=0, seed=4, light=0.8)),
        (Traits("C0004"), views(room, 6, x=80, y=50, seed=5)),
    ]  # fmt: skip
    assert grouped(takes) == [["C0001", "C0003"], ["C0002", "C0004"]]
    names = [g.name for g in group_takes([t for t, _ in takes], all_alike([p for _, p in takes]))]
    assert names == ["C, set-up 1", "C, set-up 2"]


def test_names_metadata_and_the_clock_part_what_looks_alike() -> None:
    same = views(place(22), 6)
    assert grouped([(Traits("C0001"), same), (Traits("C0002"), same)]) == [["C0001", "C0002"]]
    assert grouped([(Traits("IMG_0001"), same), (Traits("DJI_0001"), same)]) == [["IMG_0001"], ["DJI_0001"]]
    assert grouped([
        (Traits("C0001", camera="One 7"), same), (Traits("C0002", camera="Other 9"), same)
    ]) == [["C0001"], ["C0002"]]  # fmt: skip
    at_once = [(Traits(f"C000{n}", started_s=100.0 + 5 * n, seconds=60), same) for n in (1, 2)]
    assert grouped(at_once) == [["C0001"], ["C0002"]]  # type: ignore[arg-type]
    copied = [(Traits(f"C000{n}", started_s=100.0, seconds=60), same) for n in (1, 2)]
    assert grouped(copied) == [["C0001", "C0002"]]  # type: ignore[arg-type]


def test_what_the_editor_tagged_comes_first() -> None:
    one, other = views(place(23), 6), views(place(24), 6)
    tagged = [(Traits("C0001", tagged="Deck"), one), (Traits("X9", tagged="Deck"), other)]
    assert grouped(tagged) == [["C0001", "X9"]]  # type: ignore[arg-type]
    assert grouped([(Traits("C1", tagged="Deck"), one), (Traits("C2", tagged="Loft"), one)]) == [
        ["C1"],
        ["C2"],
    ]


@settings(max_examples=40, deadline=None)
@given(st.lists(st.sampled_from(["C0001", "C0002", "IMG_1", "IMG_2", "DJI_3", "x"]), min_size=1, max_size=9))
def test_without_pictures_every_take_is_in_just_one_group_by_its_camera(names: list[str]) -> None:
    groups = grouped([(Traits(name), None) for name in names])
    of = {
        i: n
        for n, g in enumerate(group_takes([Traits(n) for n in names], all_alike([None] * len(names))))
        for i in g.takes
    }
    assert len(groups) == len(set(of.values()))
    for a, one in enumerate(names):
        for b, other in enumerate(names):
            if camera_in_name(one) and camera_in_name(one) == camera_in_name(other):
                assert of[a] == of[b]
