"""Difference of an edit's view to the one that the page has: the page then reads, and draws, only that."""

import itertools
import time
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from threading import Lock
from typing import Any

from zembi.core.memory import same_ends
from zembi.service.answers.views import EditView, KeptView, ProgrammeView

#: Views that are remembered, over all projects: a page asks from the last one it was told.
_REMEMBERED = 8


class Told:
    """Views of edits that pages were told, by project, edit and version; the oldest are forgotten."""

    def __init__(self) -> None:
        self._views: OrderedDict[tuple[Path, int, int], EditView] = OrderedDict()
        # Versions of another run of the server are never taken for one of these.
        self._versions = itertools.count(time.time_ns() // 1_000_000)
        self._lock = Lock()

    def whole(self, folder: Path, view: EditView) -> EditView:
        """The view with a version from which changes can be asked for; the same as last time where nothing differs."""
        with self._lock:
            of = folder, view.id
            last = next((v for key, v in reversed(self._views.items()) if key[:2] == of), None)
            if last and replace(last, version=0, note=view.note) == view:
                return replace(last, note=view.note)
            numbered = replace(view, version=next(self._versions))
            self._views[*of, numbered.version] = numbered
            while len(self._views) > _REMEMBERED:
                self._views.popitem(last=False)
        return numbered

    def since(self, folder: Path, view: EditView, version: int | None) -> EditView:
        """The view with only what changed since a version; whole where that is not known any more."""
        before = self._before(folder, view, version)
        after = self.whole(folder, view)
        return after if before is None else changed(before, after)

    def ahead(self, folder: Path, view: EditView, version: int | None) -> EditView:
        """A view that is only looked at, with what differs from a version; nothing is remembered of it."""
        before = self._before(folder, view, version)
        return view if before is None else changed(before, view)

    def _before(self, folder: Path, view: EditView, version: int | None) -> EditView | None:
        return self._views.get((folder, view.id, version)) if version is not None else None


def changed(before: EditView, after: EditView) -> EditView:
    """The later of two views of an edit, its lists without what stands in the earlier one at their heads and tails."""
    known = {lane.id: lane.items for lane in before.lanes}
    lanes = [_ends(known.get(lane.id, []), lane.items) for lane in after.lanes]
    findings = _ends(before.findings, after.findings)
    old: list[list[Any]] = [*before.programme.layers, *([] for _ in after.programme.layers)]
    layers = [_ends(a, b) for a, b in zip(old, after.programme.layers, strict=False)]
    return replace(
        after,
        lanes=[
            replace(lane, items=_middle(lane.items, ends))
            for lane, ends in zip(after.lanes, lanes, strict=True)
        ],
        findings=_middle(after.findings, findings),
        programme=ProgrammeView(
            [_middle(layer, ends) for layer, ends in zip(after.programme.layers, layers, strict=True)],
            after.programme.sound,
        ),
        kept=KeptView(before.version, lanes, findings, layers),
    )


def _ends(before: Sequence[Any], after: Sequence[Any]) -> list[int]:
    """Number of items at the head and at the tail of two lists that are the same."""
    return list(same_ends(after, before, equal=True))


def _middle(items: list[Any], ends: list[int]) -> list[Any]:
    return items[ends[0] : len(items) - ends[1]]
