"""Grade in the film: each colour looked up in the grade's table, tetrahedral in between, in floating point."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import local

import av
import numpy as np
from av.filter import Graph

from zembi.core.colour.grade import REST, Lut, lut_of
from zembi.core.picture.step import Values
from zembi.media.lookup import looked_up, lookup_graph
from zembi.media.sheet import Sheet, Sheetlike
from zembi.media.steps.glow import planes_of_rgb, rgb_of

#: Tables that are kept ready, in each thread: a filter is used by one at a time.
_KEPT = 8
_READY = local()
#: The library's order of planes.
_ORDER = (1, 2, 0)


def act(sheet: Sheet, values: Values) -> Sheet:
    """The picture with its colours looked up in the table of a grade."""
    if values == REST:
        return sheet
    return through_table(sheet, tuple(values.items()), lambda: lut_of(values))


def through_table(sheet: Sheet, key: Hashable, table: Callable[[], Lut]) -> Sheet:
    """The picture with its colours looked up in a table, which ``key`` tells from others."""
    colours = rgb_of(sheet)
    cover = None if sheet.cover is None else np.maximum(sheet.cover[0], np.float32(1e-6))
    if cover is not None:
        colours = [np.asarray(c / cover, np.float32) for c in colours]
    found = [np.asarray(c, np.float32) for c in _looked_up(colours, key, table)]
    if cover is not None:
        assert sheet.cover is not None
        found = [c * sheet.cover[0] for c in found]
    return sheet.with_planes(planes_of_rgb(found))


def _looked_up(colours: list[Sheetlike], key: Hashable, table: Callable[[], Lut]) -> list[Sheetlike]:
    height, width = colours[0].shape
    frame = av.VideoFrame(width, height, "gbrpf32le")
    for plane, k in zip(frame.planes, _ORDER, strict=True):
        rows = np.frombuffer(memoryview(plane), np.float32).reshape(height, plane.line_size // 4)
        np.clip(colours[k], 0, 1, out=rows[:, :width])
    out = looked_up(_graph((width, height), key, table), frame)
    rows_of = [
        np.frombuffer(memoryview(p), np.float32).reshape(height, p.line_size // 4)[:, :width]
        for p in out.planes
    ]
    return [np.array(rows_of[_ORDER.index(k)]) for k in range(3)]


def _graph(size: tuple[int, int], of: Hashable, table: Callable[[], Lut]) -> Graph:
    ready: OrderedDict[object, Graph] = _READY.__dict__.setdefault("graphs", OrderedDict())
    key = size, of
    if key not in ready:
        while len(ready) >= _KEPT:
            ready.popitem(last=False)
        ready[key] = lookup_graph(size, "gbrpf32le", table)
    ready.move_to_end(key)
    return ready[key]
