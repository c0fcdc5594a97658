"""Angles on the keys 1 to 9 in a section: those with picture there, in a steady order."""

from collections.abc import Sequence

KEYS = 9


def keys_by_section(present: Sequence[Sequence[bool]]) -> list[list[int | None]]:
    """The angle behind each key, section by section.

    The first nine angles have the keys of their order. A later one has as its own the key that is free in most of
    the sections where it has picture. In each section an angle has its own key where an earlier one does not need
    it, else the lowest that is free; where more than nine have picture, the last have none.

    Args:
        present: Whether each angle, in their order, has picture in each section; shape (angles, sections).

    Returns:
        For each section nine indexes of angles, None where a key reaches nothing.
    """
    sections = len(present[0]) if present else 0
    owns = _own_keys(present)
    out: list[list[int | None]] = []
    for section in range(sections):
        keys: list[int | None] = [None] * KEYS
        here = [a for a, there in enumerate(present) if there[section]]
        rest = []
        for angle in here:
            if keys[owns[angle]] is None:
                keys[owns[angle]] = angle
            else:
                rest.append(angle)
        for angle in rest:
            if None in keys:
                keys[keys.index(None)] = angle
        out.append(keys)
    return out


def _own_keys(present: Sequence[Sequence[bool]]) -> list[int]:
    """The key, from 0, that each angle has wherever it can."""
    owns: list[int] = []
    for angle, there in enumerate(present):
        if angle < KEYS:
            owns.append(angle)
            continue
        taken = [
            sum(
                there[s] and any(owns[a] == key and present[a][s] for a in range(angle))
                for s in range(len(there))
            )
            for key in range(KEYS)
        ]
        owns.append(taken.index(min(taken)))
    return owns
