"""Sound of the programme: pieces on its clock. The page plays, the film writes and OTIO lists these."""

from dataclasses import dataclass

from zembi.core.song.cutdown import AS_RECORDED, CROSSFADE_S, SongLevel, SongMap


@dataclass(frozen=True)
class SoundPiece:
    """``seconds`` of a file from ``media_s``, heard from programme time ``at_s`` on.

    It fades in over its first and out over its last seconds with equal power. A piece begins under the end of
    the one before by its fade-in: the join itself is at ``at_s + fade_in_s``.
    """

    media: str
    at_s: float
    media_s: float
    seconds: float
    fade_in_s: float
    fade_out_s: float


@dataclass(frozen=True)
class Sound:
    """Pieces in order, and the level over all of them: gain, and fades at head and tail."""

    pieces: tuple[SoundPiece, ...] = ()
    level: SongLevel = AS_RECORDED

    @property
    def kept(self) -> tuple[tuple[float, float], ...]:
        """The ranges of the file that are heard one after the other, join to join."""
        return tuple((p.media_s + p.fade_in_s, p.media_s + p.seconds) for p in self.pieces)


#: Nothing of one's own: a film with a song then has all of it.
SILENT = Sound()


def song_sound(media: str, kept: SongMap, level: SongLevel = AS_RECORDED) -> Sound:
    """The kept pieces of a song, each join crossfaded over the last 20 ms before it."""
    pieces: list[SoundPiece] = []
    for k, ((a, b), at) in enumerate(zip(kept.kept, kept.starts, strict=True)):
        before = kept.kept[k - 1] if k else None
        after = kept.kept[k + 1] if k + 1 < len(kept.kept) else None
        lead = min(CROSSFADE_S, a, before[1] - before[0], b - a) if before else 0.0
        tail = min(CROSSFADE_S, after[0], b - a, after[1] - after[0]) if after else 0.0
        pieces.append(SoundPiece(media, at - lead, a - lead, b - a + lead, lead, tail))
    return Sound(tuple(pieces), level)
