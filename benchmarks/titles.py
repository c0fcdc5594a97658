"""A film with titles through its whole length beside the same film without; and a letter typed in a card, to its picture.

Usage: python benchmarks/titles.py [--seconds N] [--times N]
"""

import argparse
import json
import statistics
import tempfile
import time
from dataclasses import asdict, replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from render import SIZE, make_source

from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import OPACITY, PLACE
from zembi.core.programme.model import Layer, Programme, Span, Title, shown
from zembi.core.titles.card import Card, CardLine
from zembi.core.titles.presets import PRESETS, worded
from zembi.core.titles.shown import ALL
from zembi.media.render import Film, film_pictures, render
from zembi.media.titles import raster
from zembi.media.titles.layout import set_card
from zembi.service.titles import cards

LINES = (
    "lamp room, lamp room, burn the fog away",
    "a radio that talks all night to no one",
    "I wrote your name in signal light",
)


def titles(frames: int) -> dict[str, list[Span]]:
    """Lanes of titles of several kinds, each through the whole film."""
    spans = [(n, min(frames, n + 48)) for n in range(0, frames, 48)]
    up = Curve((Key(0, 0.0, "smooth"), Key(8, 1.0, "hold")))
    grows = Curve((Key(0, 0.9, "straight"), Key(48, 1.1, "hold")))

    def lane(style: Card, *chain: object) -> list[Span]:
        return [
            Span(a, b, Title(worded(style, LINES[n % 3])), chain=tuple(chain))  # type: ignore[arg-type]
            for n, (a, b) in enumerate(spans)
        ]

    return {
        "words low, as they are": lane(PRESETS["lyric low"]),
        "words low, faded in": lane(PRESETS["lyric low"], OPACITY(amount=up)),
        "words large, growing": lane(PRESETS["lyric large"], PLACE(scale=grows)),
    }


def took(work: object, times: int) -> list[float]:
    out = []
    for _ in range(times):
        begin = time.perf_counter()
        work()  # type: ignore[operator]
        out.append(time.perf_counter() - begin)
    return out


def encoded(film: Film, times: int) -> float:
    """Yardstick: seconds that the encoder alone takes for the finished pictures of a film, the median."""
    pictures = [p.reformat(format="yuv420p") for p in film_pictures(film)]

    def encode() -> None:
        with av.open("none", "w", format="null") as out:
            video = out.add_stream("libx264", rate=film.rate)
            video.width, video.height, video.pix_fmt = film.width, film.height, "yuv420p"
            video.codec_context.options = {"preset": "veryfast", "crf": "18"}
            for number, picture in enumerate(pictures):
                picture.pts, picture.time_base, picture.pict_type = number, 1 / film.rate, 0
                out.mux(video.encode(picture))
            out.mux(video.encode(None))

    return statistics.median(took(encode, times))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=int, default=12)
    parser.add_argument("--times", type=int, default=5)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        files = {str(k): make_source(Path(folder) / f"{k}.mp4", given.seconds, k) for k in range(3)}
        frames = 24 * given.seconds
        base = Layer(
            "Shots",
            tuple(shown(n, min(frames, n + 48), str(n // 48 % 3), n / 24) for n in range(0, frames, 48)),
        )

        def film(*layers: Layer) -> Film:
            return Film(Programme(frames, (base, *layers)), files, None, Fraction(24), *SIZE, 0, frames)

        target = Path(folder) / "film.mp4"
        lanes = titles(frames)
        # One after the other in turn, so that what else the machine does meets all of them.
        spent: dict[str, list[float]] = {name: [] for name in ("without", *lanes)}
        for _ in range(given.times):
            spent["without"] += took(lambda: render(film(), target), 1)
            for name, spans in lanes.items():
                spent[name] += took(
                    lambda spans=spans: render(film(Layer("Titles", tuple(spans))), target), 1
                )
        plain = statistics.median(spent["without"])
        print(
            f"{given.seconds} s in {SIZE[0]}x{SIZE[1]}, median of {given.times}: without titles {plain:.2f} s"
        )
        bare = encoded(film(), given.times)
        for name, found in spent.items():
            if name != "without":
                ratios = [a / b for a, b in zip(found, spent["without"], strict=True)]
                alone = encoded(film(Layer("Titles", tuple(lanes[name]))), given.times) / bare
                print(
                    f"  {name}: {statistics.median(found):.2f} s = {statistics.median(ratios):.2f} times (asked: 1.15); "
                    f"its finished pictures through the encoder alone {alone:.2f} times"
                )
    typing(given.times)


def typing(times: int) -> None:
    """From a letter typed to the card's picture for the page's canvas, as PNG: another text each time."""
    for name, style in PRESETS.items():
        spent = []
        for n in range(5 * times):
            card = replace(
                style, lines=(CardLine("burn the fog away"[: 4 + n % 12] + str(n)), *style.lines[1:])
            )
            begin = time.perf_counter()
            json.dumps(asdict(card))
            set_card(card, 16 / 9)
            cards._image(card, SIZE, (480, 270), ALL, 0)
            spent.append(1000 * (time.perf_counter() - begin))
            raster._card_picture.cache_clear()
        print(
            f"  a letter typed in “{name}”: {np.median(spent):.0f} ms, 95 % {np.percentile(spent, 95):.0f} ms (asked: 100)"
        )


if __name__ == "__main__":
    main()
