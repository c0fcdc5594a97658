"""Rendering: a programme and its song to an MP4 film that appears under its name only when complete."""

import itertools
import os
from collections import OrderedDict, deque
from collections.abc import Callable, Generator, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing, suppress
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import TypeVar

import av
import numpy as np
from numpy.typing import NDArray

from zembi.core.errors import BadInput, NoRoom
from zembi.core.picture.chain import Act, acts_at, covers
from zembi.core.picture.steps import MATTE, OPACITY
from zembi.core.programme.flatten import stretches
from zembi.core.programme.model import Colour, Programme, Span, Title, frame_middles, source_mixes
from zembi.core.programme.sound import SILENT, Sound
from zembi.core.song.cutdown import AS_RECORDED, WorkingSound
from zembi.media.between import Moving
from zembi.media.compositor import CompositeLayer, composed
from zembi.media.frames import FrameReader
from zembi.media.leftovers import clear_dead
from zembi.media.picture import Upright
from zembi.media.sound import StreamResampler, sound_blocks

#: Files kept open at once.
_OPEN_FILES = 6
#: Pictures made before the encoder asks for them: enough that neither waits for the other at each frame.
_AHEAD = 4
T = TypeVar("T")


@dataclass(frozen=True)
class Film:
    """A film to render.

    Attributes:
        programme: What is shown and heard; where no layer has anything, black. Without pieces of sound, all of
            the song is heard.
        files: Path of every medium that the layers name.
        song: Sound file; None for a silent film.
        rate, width, height: Of the film.
        first, end: Its frames of the programme (half-open); before frame 0 and after the song it is silent.
    """

    programme: Programme
    files: dict[str, Path]
    song: Path | None
    rate: Fraction
    width: int
    height: int
    first: int
    end: int


class _Readers:
    """Open files, the least recently used closed first."""

    def __init__(self, files: dict[str, Path], width: int, height: int) -> None:
        self._files = files
        self._size = (width, height)
        self._open: OrderedDict[str, tuple[FrameReader, Upright]] = OrderedDict()
        self._last: dict[tuple[str, bool], OrderedDict[int, av.VideoFrame]] = {}
        self._cut: dict[str, tuple[int, av.VideoFrame, NDArray[np.float32]]] = {}

    def _get(self, media: str) -> tuple[FrameReader, Upright]:
        if media in self._open:
            self._open.move_to_end(media)
        else:
            if len(self._open) >= _OPEN_FILES:
                oldest, (reader, _) = self._open.popitem(last=False)
                reader.close()
                self._last.pop((oldest, False), None)
                self._last.pop((oldest, True), None)
                self._cut.pop(oldest, None)
            self._open[media] = (FrameReader(self._files[media]), Upright(*self._size, quality="fine"))
        return self._open[media]

    def times(self, media: str) -> NDArray[np.float64]:
        """Presentation times of a file's frames."""
        return self._get(media)[0].times.times

    def picture(self, media: str, index: int, *, deep: bool = False) -> av.VideoFrame:
        """A frame of a file, upright and at the film's size; the same object when asked again.

        With ``deep``, as steps of a chain want it, in 16 bit where the file holds more than 8.
        """
        reader, upright = self._get(media)
        last = self._last.setdefault((media, deep), OrderedDict())
        if index not in last:
            frame = reader.frame(index)
            last[index] = (upright.deep(frame) if deep else None) or upright.picture(frame)
            # Two: what is mixed of both is asked for again and again.
            if len(last) > 2:
                last.popitem(last=False)
        return last[index]

    def cut_out(self, media: str, index: int) -> tuple[av.VideoFrame, NDArray[np.float32]]:
        """A frame of a file at the film's size over black, and how much each point of it hides."""
        known = self._cut.get(media)
        if known is None or known[0] != index:
            reader, upright = self._get(media)
            known = self._cut[media] = index, *upright.cut_out(reader.frame(index))
        return known[1], known[2]

    def close(self) -> None:
        for reader, _ in self._open.values():
            reader.close()


def film_pictures(film: Film) -> Generator[av.VideoFrame]:
    """Every frame of the film in order, at its size; repeated source frames are the same object."""
    readers = _Readers(film.files, film.width, film.height)
    black = composed([], film.width, film.height)
    aspect = film.width / film.height
    try:
        for begin, until, stack in stretches(film.programme, film.first, film.end):
            sources = [
                source_mixes(s, film.rate, readers.times(s.media)) if s.media is not None else None
                for s in stack
            ]
            moving = [_moving(s, film, readers, begin, until) for s in stack]
            for frame in range(begin, until):
                chains = [acts_at(s.chain, frame - s.start, aspect) for s in stack]
                # What the topmost that hides all covers is not decoded.
                lowest = max((i for i, s in enumerate(stack) if s.hides and covers(chains[i])), default=0)
                parts: list[CompositeLayer] = []
                for span, source, between, acts in list(zip(stack, sources, moving, chains, strict=True))[
                    lowest:
                ]:
                    made = between.picture(frame - begin) if between else None
                    if isinstance(span.content, Title):
                        parts.append(CompositeLayer(acts, card=span.content.card, shown=span.content.shown))
                    elif isinstance(span.content, Colour):
                        parts.append(CompositeLayer(acts, colour=span.content.code))
                    elif source is None or span.media is None:
                        parts.append(CompositeLayer(acts))
                    elif any(a.kind is MATTE for a in acts):
                        index = int(source[0][frame - span.start])
                        picture, cover = readers.cut_out(span.media, index)
                        parts.append(CompositeLayer(acts, picture, cover=cover))
                    elif made is not None:
                        parts.append(CompositeLayer(acts, made))
                    else:
                        index, share = (
                            int(source[0][frame - span.start]),
                            float(source[1][frame - span.start]),
                        )
                        steps = any(a.kind is not OPACITY for a in acts)
                        picture = readers.picture(span.media, index, deep=steps and not share)
                        if share:
                            part = (Act(OPACITY, {"amount": share}),)
                            following = CompositeLayer(part, readers.picture(span.media, index + 1))
                            picture = composed(
                                [CompositeLayer(frame=picture), following], film.width, film.height
                            )
                        parts.append(CompositeLayer(acts, picture))
                plain = not parts or (len(parts) == 1 and parts[0] == CompositeLayer())
                yield black if plain else composed(parts, film.width, film.height)
    finally:
        readers.close()


def ahead(items: Generator[T], most: int) -> Iterator[T]:
    """Items made in a thread of their own while the last is used, at most so many before they are asked for.

    The generator is closed when the items are no longer wanted, and what it raises is raised here.
    """
    end = object()
    with closing(items), ThreadPoolExecutor(1) as pool:
        coming = deque(pool.submit(next, items, end) for _ in range(most))
        try:
            while (item := coming.popleft().result()) is not end:
                coming.append(pool.submit(next, items, end))
                yield item  # type: ignore[misc]
        finally:
            for one in coming:
                one.cancel()


def _moving(span: Span, film: Film, readers: _Readers, begin: int, until: int) -> Moving | None:
    """The optical-flow interpolator of a span; None where its frames are not interpolated."""
    media = span.media
    # A picture that is cut out shows its own frames.
    if media is None or span.blend != "moved" or any(s.kind is MATTE for s in span.chain):
        return None
    at = span.time.times(film.rate)[begin - span.start : until - span.start]
    times = readers.times(media)
    if len(times) < 2:
        return None
    return Moving(lambda n: readers.picture(media, n), at, frame_middles(times))


def working_blocks(song: Path, sound: Sound) -> Iterator[tuple[NDArray[np.float32], int]]:
    """Sound of a song from its first sample: blocks (n, channels) and the rate.

    With all of the song kept at its own level these are its own samples, untouched.
    """
    blocks = sound_blocks(song)
    whole = not sound.pieces or (len(sound.pieces) == 1 and sound.pieces[0].media_s == 0)
    if whole and sound.level == AS_RECORDED:
        yield from blocks
        return
    first = next(blocks, None)
    if first is None:
        return
    rate = first[1]
    working = WorkingSound(sound.kept or ((0.0, 36_000.0),), sound.level, rate)
    for block in working.blocks(b for b, _ in itertools.chain([first], blocks)):
        yield block, rate


def song_samples(
    song: Path, first_s: Fraction, end_s: Fraction, sound: Sound = SILENT
) -> Iterator[tuple[NDArray[np.float32], int]]:
    """Sound in a range of the programme's time: blocks (n, channels) and the rate, unresampled.

    Begins in silence before the song, and ends in it where the song is shorter than the film.
    """
    position, rate, channels = 0, 0, 2
    stop: int | None = None
    start = 0
    for block, rate in working_blocks(song, sound):
        channels = block.shape[1]
        if stop is None:
            start, stop = round(first_s * rate), round(end_s * rate)
            if start < 0:
                yield np.zeros((min(0, stop) - start, channels), np.float32), rate
                start = min(0, stop)
        a, b = max(start, position), min(stop, position + len(block))
        if a < b:
            yield block[a - position : b - position], rate
        position += len(block)
        if position >= stop:
            return
    if stop is not None and position < stop:
        yield np.zeros((stop - max(position, start), channels), np.float32), rate


def render(film: Film, target: Path, *, progress: Callable[[float, str], None] = lambda _s, _w: None) -> None:
    """Render to MP4 (H.264 High, AAC), written beside the target and renamed when complete.

    Args:
        film: What to render.
        target: The .mp4 to make; replaced only by a complete film.
        progress: Told the share done; may raise to cancel, which leaves no file behind.

    Raises:
        BadInput: an empty range, or the folder cannot be written.
        NoRoom: the disk filled up.
    """
    if film.end <= film.first:
        raise BadInput("There is nothing to render: the range is empty.")
    if film.width % 2 or film.height % 2:
        raise BadInput(
            f"A picture of {film.width}×{film.height} cannot be coded: both sides have to be even."
        )
    part = target.with_name(f".{target.stem}.rendering-{os.getpid()}.mp4")
    try:
        # Never the folders above: those of a project that was deleted meanwhile stay gone.
        target.parent.mkdir(exist_ok=True)
        clear_dead(target.parent, f".{target.stem}.rendering-")
        _write(film, part, progress)
        os.replace(part, target)
    except av.error.OSError as fault:
        if fault.errno == 28:
            raise NoRoom(
                f"The disk is full: {target.name} could not be finished. Make room and render again."
            ) from fault
        raise BadInput(f"{target.name} cannot be written ({fault.strerror}).") from fault
    except OSError as fault:
        raise BadInput(f"{target} cannot be written ({fault.strerror}).") from fault
    finally:
        with suppress(OSError):
            part.unlink()


def _write(film: Film, part: Path, progress: Callable[[float, str], None]) -> None:
    with av.open(str(part), "w", format="mp4", options={"movflags": "+faststart"}) as out:
        video = out.add_stream("libx264", rate=film.rate)
        video.width, video.height, video.pix_fmt = film.width, film.height, "yuv420p"
        video.time_base = 1 / film.rate
        video.codec_context.options = {"preset": "veryfast", "crf": "18"}
        video.codec_context.color_primaries = 1
        video.codec_context.color_trc = 1
        video.codec_context.colorspace = 1
        sound = _SoundTrack(out, film) if film.song is not None else None
        total = film.end - film.first
        for number, picture in enumerate(ahead(film_pictures(film), _AHEAD)):
            picture.pts, picture.time_base = number, 1 / film.rate
            picture.pict_type = 0
            out.mux(video.encode(picture))
            if sound is not None:
                sound.write_until(Fraction(number + 1) / film.rate)
            if number % 12 == 0:
                progress(number / total, f"Rendering frame {number} of {total}")
        out.mux(video.encode(None))
        if sound is not None:
            sound.finish()
    progress(1.0, "Rendered")


#: Turn off perceptual noise substitution and intensity stereo, which only lose fidelity at 320 kbit/s, and the encoder's
#: long search: nearer to the song in a third of the time.
_SOUND = {"aac_coder": "fast", "aac_is": "0", "aac_pns": "0"}


#: Sample rates that AAC can code (ISO/IEC 14496-3, 1.6.3.4) and players know.
_CODED_RATES = (96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8_000)


def coded_rate(rate: int) -> int:
    """The sample rate at which a song of a rate is coded: its own, the half or quarter of it, else 48 kHz."""
    exact = [rate // k for k in (1, 2, 4) if rate % k == 0 and rate // k in _CODED_RATES]
    return exact[0] if exact else 48_000


class _SoundTrack:
    """The song's samples, resampled where the coder does not know their rate, and encoded as the picture goes along."""

    def __init__(self, out: av.container.OutputContainer, film: Film) -> None:
        assert film.song is not None
        self._out = out
        self._blocks = song_samples(
            film.song,
            Fraction(film.first) / film.rate,
            Fraction(film.end) / film.rate,
            film.programme.sound,
        )
        first = next(self._blocks, None)
        pending = first[0] if first is not None else np.zeros((0, 2), np.float32)
        given = first[1] if first is not None else 48_000
        self.rate = coded_rate(given)
        self._resampler = StreamResampler(given, self.rate, pending.shape[1])
        self._pending = self._resampler.push(pending)
        self._over, self._given, self._channels = False, given, pending.shape[1]
        self._stream = out.add_stream("aac", rate=self.rate, options=_SOUND)
        self._stream.bit_rate = 320_000
        self._stereo = pending.shape[1] != 1
        self._stream.layout = "stereo" if self._stereo else "mono"
        self._written = 0

    def write_until(self, seconds: Fraction) -> None:
        while Fraction(self._written, self.rate) < seconds and self._step():
            pass

    def _step(self) -> bool:
        while not len(self._pending):
            if self._over:
                return False
            block = next(self._blocks, None)
            self._over = block is None
            # The last samples lie in the resampler until it is told that they are the last.
            rest = np.zeros((0, self._channels), np.float32)
            self._pending = self._resampler.push(rest if block is None else block[0], last=self._over)
            if self._over and self.rate == self._given:
                return False
        data = self._pending[:, :2] if self._stereo else self._pending
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(data.T), "fltp", self._stream.layout)
        frame.rate, frame.pts, frame.time_base = self.rate, self._written, Fraction(1, self.rate)
        self._out.mux(self._stream.encode(frame))
        self._written += len(data)
        self._pending = self._pending[:0]
        return True

    def finish(self) -> None:
        while self._step():
            pass
        self._out.mux(self._stream.encode(None))
