"""The media library's filter that looks colours up in a table, tetrahedral in between."""

import tempfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
from av.filter import Graph

from zembi.core.colour.cube import write_cube
from zembi.core.colour.grade import Lut


def lookup_graph(size: tuple[int, int], pixels: str, table: Callable[[], Lut]) -> Graph:
    """A filter of frames of a size and a planar RGB format."""
    graph = Graph()
    # The library reads the table from a file, once.
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "table.cube"
        path.write_text(write_cube(table()))
        source = graph.add_buffer(
            width=size[0],
            height=size[1],
            format=av.VideoFormat(pixels, *size),
            time_base=Fraction(1, 24),
        )
        graph.link_nodes(
            source, graph.add("lut3d", f"file={path}:interp=tetrahedral"), graph.add("buffersink")
        )
        graph.configure()
    return graph


def looked_up(graph: Graph, frame: av.VideoFrame) -> av.VideoFrame:
    """A frame through a filter of :func:`lookup_graph`."""
    frame.pts, frame.time_base = 0, Fraction(1, 24)
    graph.push(frame)
    return graph.vpull()
