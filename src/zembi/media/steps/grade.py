"""Grade in the film: each colour looked up in the grade's table, tetrahedral in between, in floating point."""

from collections import OrderedDict
from threading import local

import av
import numpy as np
from av.filter import Graph

from zembi.core.colour.grade import REST, lut_of
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
    """The picture with its colours looked up."""
    if values == REST:
        return sheet
    colours = rgb_of(sheet)
    cover = None if sheet.cover is None else np.maximum(sheet.cover[0], np.float32(1e-6))
    if cover is not None:
        colours = [np.asarray(c / cover, np.float32) for c in colours]
    looked_up = [np.asarray(c, np.float32) for c in _looked_up(colours, values)]
    if cover is not None:
        assert sheet.cover is not None
        looked_up = [c * sheet.cover[0] for c in looked_up]
    return sheet.with_planes(planes_of_rgb(looked_up))


def _looked_up(colours: list[Sheetlike], values: Values) -> list[Sheetlike]:
    height, width = colours[0].shape
    frame = av.VideoFrame(width, height, "gbrpf32le")
    for plane, k in zip(frame.planes, _ORDER, strict=True):
        rows = np.frombuffer(memoryview(plane), np.float32).reshape(height, plane.line_size // 4)
        np.clip(colours[k], 0, 1, out=rows[:, :width])
    out = looked_up(_graph((width, height), tuple(values.items())), frame)
    rows_of = [
        np.frombuffer(memoryview(p), np.float32).reshape(height, p.line_size // 4)[:, :width]
        for p in out.planes
    ]
    return [np.array(rows_of[_ORDER.index(k)]) for k in range(3)]


def _graph(size: tuple[int, int], values: tuple[tuple[str, float], ...]) -> Graph:
    ready: OrderedDict[object, Graph] = _READY.__dict__.setdefault("graphs", OrderedDict())
    key = size, values
    if key not in ready:
        while len(ready) >= _KEPT:
            ready.popitem(last=False)
        ready[key] = lookup_graph(size, "gbrpf32le", lambda: lut_of(dict(values)))
    ready.move_to_end(key)
    return ready[key]
