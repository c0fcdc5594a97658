"""Grouping of takes by camera set-up: what they say of their camera, and what is seen.

Each pair is weighed: what speaks for one set-up counts above 0, what speaks against it below. Takes join while the mean
of all pairs between two groups speaks for it, and no pair of them cannot be one.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zembi.core.footage.likeness import Likeness, Pictures

#: A pair that weighs less than this is never one camera.
_NEVER = -6.0
#: What is seen alike in pictures of different places, and of one set-up, by chance and usually.
_OTHER, _ONE = 0.45, 0.72
#: Farthest that a set-up moves between takes, of the picture's size.
_MOVES = 0.14
#: Seconds that two takes may share on the camera's clock by rounding.
_ROUNDING_S = 1.5

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Traits:
    """Traits of a take's camera.

    Attributes:
        name: Its file's name, without its ending.
        folder: The name of the folder it lies in.
        tagged: What the editor calls its camera, "" where nothing.
        camera: Maker, model, serial number or reel from the file, "" where it does not say.
        form: Picture size, rate and colour, as text.
        started_s: When it was recorded on the camera's clock, None where it is not known.
        seconds: Its length.
    """

    name: str
    folder: str = ""
    tagged: str = ""
    camera: str = ""
    form: str = ""
    started_s: float | None = None
    seconds: float = 0.0


@dataclass(frozen=True)
class Group:
    """Takes of one set-up, by index, and why in words."""

    name: str
    takes: tuple[int, ...]
    because: str


def camera_in_name(name: str) -> str:
    """Camera part of a file's name: "C0012" and "C0013" are C, "A001C003" is A, "IMG_0042" is IMG."""
    reel = re.fullmatch(r"([A-Z])\d{3}_?C\d{3}.*", name)
    if reel:
        return reel[1]
    words = re.match(
        r"(.*?)(?:(?:^|[ _.\-]+)(?:take|tk|clip|t))?([ _.\-]*)\d+(?:[ _.\-]*\(\d+\))?$", name, re.IGNORECASE
    )
    # Letters and digits mixed without a break are nobody's numbering.
    if words is None or (re.search(r"\d", words[1]) and not words[2]):
        return ""
    return words[1].strip(" _.-")


class _Pairs:
    """Weights of pairs and what they say."""

    def __init__(self, traits: Sequence[Traits], alike: Floats) -> None:
        self.traits = traits
        self.names = [camera_in_name(t.name) for t in traits]
        folders = [t.folder for t in traits]
        self.folders = folders if len(set(folders)) < len(folders) else [""] * len(folders)
        self.alike = alike
        count = len(traits)
        self.weights = np.zeros((count, count))
        for a in range(count):
            for b in range(a):
                self.weights[a, b] = self.weights[b, a] = self._weigh(a, b)

    def _weigh(self, a: int, b: int) -> float:
        one, other = self.traits[a], self.traits[b]
        weight = 0.5
        if one.tagged and other.tagged:
            return 9.0 if one.tagged == other.tagged else _NEVER - 1
        if one.camera and other.camera:
            weight += 1.0 if one.camera == other.camera else _NEVER - 2
        if self.names[a] and self.names[b]:
            weight += 1.2 if self.names[a] == self.names[b] else -5.0
        elif self.names[a] or self.names[b]:
            weight -= 1.5
        if self.folders[a] != self.folders[b]:
            weight -= 2.5
        if one.form and other.form and one.form != other.form:
            weight -= 4.0
        if one.started_s is not None and other.started_s is not None:
            shared = min(one.started_s + one.seconds, other.started_s + other.seconds) - max(
                one.started_s, other.started_s
            )
            # One and the same moment on several files is that of a copy, not of a camera.
            if shared > _ROUNDING_S and one.started_s != other.started_s:
                return _NEVER - 1
        alike = self.alike[a, b]
        if not np.isnan(alike):
            weight += float(np.interp(alike, [0.3, _OTHER, _ONE, 0.9], [-4.5, -3.0, 2.0, 4.0]))
        return weight

    def because(self, takes: Sequence[int]) -> str:
        """Traits that the takes of a group have in common, in words."""
        first = self.traits[takes[0]]
        said = []
        if first.tagged and all(self.traits[t].tagged == first.tagged for t in takes):
            said.append(f"tagged {first.tagged}")
        if first.camera and all(self.traits[t].camera == first.camera for t in takes):
            said.append(f"the files say {first.camera}")
        name = self.names[takes[0]]
        if name and all(self.names[t] == name for t in takes):
            said.append(f"names begin with {name}")
        if len(takes) == 1:
            return "; ".join([*said, "no other take shows the same picture"])
        folder = self.folders[takes[0]]
        if folder and len(set(self.folders)) > 1 and all(self.folders[t] == folder for t in takes):
            said.append(f"one folder, {folder}")
        pairs = [self.alike[a, b] for a in takes for b in takes if a < b and not np.isnan(self.alike[a, b])]
        if pairs and float(np.median(pairs)) > 0.5 * (_OTHER + _ONE):
            said.append(f"the same picture stands behind ({100 * float(np.median(pairs)):.0f} % alike)")
        if not said and first.form:
            said.append(f"the same kind of picture, {first.form}")
        return "; ".join(said) or "nothing tells them apart"


def seen_alike(one: Pictures, other: Pictures) -> float:
    """Visual similarity of two takes, 0..1: the better quarter of their moments, since people move before them.

    Args:
        one, other: A few small pictures of each, shape (moments, *SIZE, 3); at least one.
    """
    looks = Likeness(np.concatenate([one, other]), _MOVES)
    mine, theirs = np.arange(len(one)), len(one) + np.arange(len(other))
    a, b = (x.ravel() for x in np.meshgrid(mine, theirs, indexing="ij"))
    fit = float(np.quantile(1 - looks.unlike(a, b), 0.75))
    colour = float(np.quantile(1 - looks.other_colours(a, b), 0.75))
    return min(1.0, fit * (0.8 + 0.25 * colour))


def all_alike(seen: Sequence[Pictures | None]) -> Floats:
    """:func:`seen_alike` for each pair; NaN where one shows nothing."""
    out = np.full((len(seen), len(seen)), np.nan)
    for a, one in enumerate(seen):
        for b, other in enumerate(seen[:a]):
            if one is not None and other is not None and len(one) and len(other):
                out[a, b] = out[b, a] = seen_alike(one, other)
    return out


def group_takes(traits: Sequence[Traits], alike: Floats) -> list[Group]:
    """Group takes by camera set-up; every take is in exactly one group, groups in the order of their first take.

    Args:
        traits: Of each take.
        alike: From :func:`all_alike`, shape (takes, takes); NaN where it is not known.
    """
    pairs = _Pairs(traits, alike)
    groups = [[i] for i in range(len(traits))]
    while len(groups) > 1:
        best, which = 0.0, (0, 0)
        for a in range(len(groups)):
            for b in range(a):
                block = pairs.weights[np.ix_(groups[a], groups[b])]
                if block.min() > _NEVER and block.mean() > best:
                    best, which = float(block.mean()), (a, b)
        if best <= 0:
            break
        a, b = which
        groups[b] += groups[a]
        del groups[a]
    groups = sorted((sorted(g) for g in groups), key=lambda g: g[0])
    return _named(pairs, groups)


def _named(pairs: _Pairs, groups: list[list[int]]) -> list[Group]:
    """Groups by the name of their camera; set-ups of one camera are numbered."""
    plain = []
    for takes in groups:
        first = takes[0]
        several = len(set(pairs.folders)) > 1
        folder = pairs.folders[first] if several else ""
        plain.append(pairs.traits[first].tagged or pairs.names[first] or folder or "Camera")
    out = []
    for n, (name, takes) in enumerate(zip(plain, groups, strict=True)):
        if plain.count(name) > 1:
            name = f"{name}, set-up {1 + plain[:n].count(name)}"
        out.append(Group(name, tuple(takes), pairs.because(takes)))
    return out
