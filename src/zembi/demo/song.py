"""“Lamp Room” by Orrin Vale and the Keepers: made up, played by :mod:`zembi.demo.synth`."""

from zembi.demo.synth import Performance, SongPart, SongPlan, play

TITLE = "Lamp Room"
ACT = "Orrin Vale and the Keepers"

_VERSE = (
    (0.0, 0.5, 57, "e"), (0.5, 0.5, 60, "i"), (1.0, 0.9, 62, "e"), (2.0, 0.5, 60, "a"), (2.5, 0.5, 60, "e"),
    (3.0, 0.9, 57, "i"), (4.5, 0.5, 55, "a"), (5.0, 1.8, 57, "a"), (8.0, 0.5, 57, "a"), (8.5, 0.5, 60, "e"),
    (9.0, 0.9, 64, "i"), (10.0, 0.9, 62, "o"), (11.0, 0.9, 60, "u"), (12.0, 2.4, 57, "o"),
)  # fmt: skip
_CHORUS = (
    (0.0, 0.9, 64, "a"), (1.5, 1.3, 67, "u"), (4.0, 0.9, 64, "a"), (5.5, 1.3, 69, "u"), (8.0, 0.9, 67, "o"),
    (9.0, 0.4, 65, "e"), (9.5, 0.4, 65, "o"), (10.0, 2.4, 64, "a"),
)  # fmt: skip
_BRIDGE = ((0.0, 3.0, 60, "o"), (4.0, 3.0, 62, "u"), (8.0, 3.0, 64, "a"), (12.0, 3.2, 65, "e"))

_VERSE_CHORDS = ("Am", "F", "C", "G")
_CHORUS_CHORDS = ("F", "G", "Am", "C")

PLAN = SongPlan(
    bpm=112.0,
    parts=(
        SongPart("Intro", 4, ("Am", "F"), drums="light", bass=False, pad=0.9),
        SongPart("Verse 1", 8, _VERSE_CHORDS, pad=0.35, lead=_VERSE, level=0.62, seed=1),
        SongPart("Chorus 1", 8, _CHORUS_CHORDS, pad=1.0, lead=_CHORUS, seed=2),
        SongPart("Verse 2", 8, _VERSE_CHORDS, pad=0.45, lead=_VERSE, level=0.7, seed=3),
        SongPart("Chorus 2", 8, _CHORUS_CHORDS, pad=1.0, lead=_CHORUS, seed=2),
        SongPart("Bridge", 4, ("Dm", "Em"), drums="none", pad=1.2, lead=_BRIDGE, level=0.7, seed=4),
        SongPart("Chorus 3", 8, _CHORUS_CHORDS, pad=1.15, lead=_CHORUS, seed=5),
        SongPart("Outro", 4, ("Am", "F"), drums="light", pad=0.8, seed=6),
    ),
)

#: A line of lyrics for each phrase: (part, phrase in part, words).
LYRICS = (
    (1, 0, "the keeper counts the ships by sound, and every one comes home"),
    (1, 1, "the stair goes up, the stair goes round, the brass as cold as stone"),
    (2, 0, "lamp room, lamp room, burn the fog away"),
    (2, 1, "lamp room, lamp room, keep the dark at bay"),
    (3, 0, "a radio that talks all night to no one on the sea"),
    (3, 1, "I wrote your name in signal light, it never answered me"),
    (4, 0, "lamp room, lamp room, burn the fog away"),
    (4, 1, "lamp room, lamp room, keep the dark at bay"),
    (5, 0, "oh, turn, turn, turn"),
    (6, 0, "lamp room, lamp room, burn the fog away"),
    (6, 1, "lamp room, lamp room, keep the dark at bay"),
)


def perform() -> Performance:
    """The demo song with its truth."""
    return play(PLAN)
