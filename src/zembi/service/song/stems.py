"""Stems: their place on the song, and what they hold of it."""

import numpy as np

from zembi.core.errors import UnreadableMedia
from zembi.core.song.attack import attack_rises
from zembi.core.song.hits import Hit, accented, band_attacks
from zembi.core.song.listen import SongAnalysis
from zembi.core.song.spectrum import RATE as LISTEN_RATE
from zembi.core.song.spectrum import describe
from zembi.core.song.strokes import find_strokes
from zembi.core.song.voice import voice_alone
from zembi.core.sync.align import align
from zembi.core.sync.features import Singles, choose_sound
from zembi.core.sync.features import prepare as prepare_sound
from zembi.core.sync.stem import LEAST_SHARE, place_stem
from zembi.jobs.worker import Report
from zembi.media.sound import read_sound, resample
from zembi.service.media.analyses import StemAnalysis, save_stem, sync_sound
from zembi.service.project.snapshot import snapshot_of
from zembi.service.project.workspace import Project
from zembi.store.entities import Media


def fit_stem(project: Project, row: Media, report: Report) -> None:
    """Find a stem's place on the song as a take's is found, and keep what it holds in song time.

    Raises:
        UnreadableMedia: it is not of this song, or there is no song yet.
    """
    snapshot = snapshot_of(project)
    if snapshot.song is None or snapshot.analysis is None:
        raise UnreadableMedia("There is no song that a stem could belong to yet; add the song first.")
    report(0.05, "Comparing with the song")
    start = _stem_start(
        sync_sound(project.derived(snapshot.song))[:], sync_sound(project.derived(row))[:], report
    )
    if start is None:
        raise UnreadableMedia(
            f"{row.name} does not fit the song: its sound was found nowhere in it for certain. "
            "Choose a stem of the same recording, at the same speed."
        )
    report(0.7, "Listening to the stem")
    sound, rate = read_sound(project.file_of(row))
    mono = resample(choose_sound(sound), rate, LISTEN_RATE)
    on_song = np.pad(mono, (max(0, round(start * LISTEN_RATE)), 0))[max(0, -round(start * LISTEN_RATE)) :]
    on_song = np.pad(on_song, (0, max(0, round(snapshot.song_seconds * LISTEN_RATE) - len(on_song))))
    on_song = on_song[: round(snapshot.song_seconds * LISTEN_RATE)].astype(np.float32)
    role = row.said.role or "instrumental"
    stem = StemAnalysis(
        snapshot.song.id, role, start,
        _drums(on_song, snapshot.analysis) if role == "drums" else {},
        voice_alone(on_song).tolist() if role == "voice" else [],
    )  # fmt: skip
    save_stem(project.derived(row), stem)


def _drums(stem: Singles, song: SongAnalysis) -> dict[str, list[Hit]]:
    """Strokes and attacks of a drums stem that lies in song time."""
    spectrum, rises = describe(stem), attack_rises(stem)
    attacks = accented(band_attacks(spectrum, rises), song.downbeats, song.duration_s)
    return attacks | find_strokes(spectrum, rises, song.downbeats)


def _stem_start(song: Singles, stem: Singles, report: Report) -> float | None:
    """Song time of a stem's first sample; None where it is not of this song.

    The very samples are looked for first; a stem of another mastering is then lined up as a take is.
    """
    placed = place_stem(song, stem)
    if placed.share >= LEAST_SHARE:
        return placed.song_start_s
    found = align(prepare_sound(song), stem, progress=lambda s, w: report(0.05 + 0.6 * s, w))
    best = max(found.passes, key=lambda p: p.take_end_s - p.take_start_s, default=None)
    if found.status != "locked" or best is None or abs(best.rate - 1) > 1e-3:
        return None
    return best.song_start_s - best.take_start_s
