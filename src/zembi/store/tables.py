"""The tables of a project's database. Song times are seconds, edit positions frames.

Running ids are never given twice, so that what undo brings back meets no stranger under its own id.
"""

from sqlalchemy import JSON, Boolean, Column, Float, ForeignKey, Integer, MetaData, String, Table, Text

metadata = MetaData()

project = Table(
    "project", metadata,
    Column("id", Integer, primary_key=True),
    Column("name", String, nullable=False),
    Column("rate", String, nullable=False),  # a fraction: "24000/1001"
    Column("width", Integer, nullable=False),
    Column("height", Integer, nullable=False),
    Column("first_frame", Integer, nullable=False, default=0),
    Column("song", String, nullable=True),
    Column("edit", Integer, nullable=True),
    Column("settings", JSON, nullable=False, default=dict),  # what cuts fall on: how one works, not what one makes
    Column("level", JSON, nullable=False, default=dict, server_default="{}"),  # of the song in the film
)  # fmt: skip

media = Table(
    "media", metadata,
    Column("id", String, primary_key=True),
    Column("kind", String, nullable=False),  # song, take, broll, stem
    Column("name", String, nullable=False),
    Column("root", String, nullable=False),  # "project" or an allowed folder
    Column("path", String, nullable=False),  # relative to the root
    Column("content", String, nullable=False, default=""),
    Column("facts", JSON, nullable=False, default=dict),
    Column("tags", JSON, nullable=False, default=dict),
    Column("state", String, nullable=False, default="new"),  # new, ready, failed
    Column("error", Text, nullable=False, default=""),
    Column("position", Integer, nullable=False, default=0),
)  # fmt: skip

corrections = Table(
    "corrections", metadata,
    Column("id", Integer, primary_key=True),
    Column("data", JSON, nullable=False, default=dict),
)  # fmt: skip

section = Table(
    "section", metadata,
    Column("id", Integer, primary_key=True),
    Column("start_s", Float, nullable=False),
    Column("name", String, nullable=False),
    Column("phrase_bars", Integer, nullable=False, default=4),
    Column("repeat_group", Integer, nullable=False, default=0),
    Column("plan", JSON(none_as_null=True), nullable=True),  # shortest, longest, broll, leads; none: from the music
    sqlite_autoincrement=True,
)  # fmt: skip

lyric = Table(
    "lyric", metadata,
    Column("id", Integer, primary_key=True),
    Column("at_s", Float, nullable=False),
    Column("text", String, nullable=False),
    Column("position", Integer, nullable=False, default=0, server_default="0"),
    Column("timed", Boolean, nullable=False, default=True, server_default="1"),
    Column("words", JSON, nullable=False, default=list, server_default="[]"),  # [[seconds, word], ...]
    sqlite_autoincrement=True,
)  # fmt: skip

mark_set = Table(
    "mark_set", metadata,
    Column("id", Integer, primary_key=True),
    Column("name", String, nullable=False),
    Column("shown", Boolean, nullable=False, default=True),
    Column("hue", Integer, nullable=False, default=0, server_default="0"),
    sqlite_autoincrement=True,
)  # fmt: skip

mark = Table(
    "mark", metadata,
    Column("id", Integer, primary_key=True),
    Column("set_id", Integer, ForeignKey("mark_set.id", ondelete="CASCADE"), nullable=False),
    Column("at_s", Float, nullable=False),
    Column("name", String, nullable=False, default=""),
    Column("hue", Integer, nullable=False, default=-1, server_default="-1"),  # -1: that of its set
    sqlite_autoincrement=True,
)  # fmt: skip

left_out = Table(
    "left_out", metadata,
    Column("id", Integer, primary_key=True),
    Column("start_s", Float, nullable=False),
    Column("end_s", Float, nullable=False),
    sqlite_autoincrement=True,
)  # fmt: skip

lineup = Table(
    "lineup", metadata,
    Column("media", String, ForeignKey("media.id", ondelete="CASCADE"), primary_key=True),
    Column("status", String, nullable=False),
    Column("confidence", Float, nullable=False, default=0.0),
    Column("declined", Boolean, nullable=False, default=False, server_default="0"),
    Column("song", String, nullable=False, default="", server_default=""),  # the song it was lined up to
)  # fmt: skip

angle = Table(
    "angle", metadata,
    Column("id", Integer, primary_key=True),
    Column("number", Integer, nullable=False),
    Column("name", String, nullable=False),
    Column("hue", Integer, nullable=False),
    Column("by_hand", Boolean, nullable=False, default=False, server_default="0"),  # no grouping changes it
    Column("because", Text, nullable=False, default="", server_default=""),  # why its takes are together
    sqlite_autoincrement=True,
)  # fmt: skip

pass_ = Table(
    "pass", metadata,
    Column("id", Integer, primary_key=True),
    Column("media", String, ForeignKey("media.id", ondelete="CASCADE"), nullable=False),
    Column("take_start_s", Float, nullable=False),
    Column("take_end_s", Float, nullable=False),
    Column("song_start_s", Float, nullable=False),
    Column("rate", Float, nullable=False, default=1.0),
    Column("status", String, nullable=False),  # locked, choose
    Column("confidence", Float, nullable=False, default=0.0),
    Column("origin", String, nullable=False, default="found"),  # found, by hand, clock
    Column("found", JSON, nullable=False, default=dict),
    Column("angle", Integer, ForeignKey("angle.id", ondelete="SET NULL"), nullable=True),
    Column("position", Integer, nullable=False, default=0),
    Column("verdict", String, nullable=False, default="", server_default=""),  # "", circled, rejected
    Column("note", Text, nullable=False, default="", server_default=""),
    sqlite_autoincrement=True,
)  # fmt: skip

feed = Table(
    "feed", metadata,
    Column("id", Integer, primary_key=True),
    Column("angle", Integer, nullable=False),
    Column("start_s", Float, nullable=False),
    Column("end_s", Float, nullable=False),
    Column("pass_id", Integer, nullable=False),
    sqlite_autoincrement=True,
)  # fmt: skip

select = Table(
    "select", metadata,
    Column("id", Integer, primary_key=True),
    Column("media", String, ForeignKey("media.id", ondelete="CASCADE"), nullable=False),
    Column("in_s", Float, nullable=False),
    Column("out_s", Float, nullable=False),
    Column("name", String, nullable=False),
    Column("said", JSON, nullable=False, default=dict, server_default="{}"),  # rating, tags, hue, note
    sqlite_autoincrement=True,
)  # fmt: skip

listed_shot = Table(
    "listed_shot", metadata,
    Column("id", Integer, primary_key=True),
    Column("position", Integer, nullable=False, default=0, server_default="0"),
    Column("section", String, nullable=False, default="", server_default=""),
    Column("what", String, nullable=False),
    Column("camera", String, nullable=False, default="", server_default=""),
    Column("note", Text, nullable=False, default="", server_default=""),
    Column("done", JSON, nullable=False, default=list, server_default="[]"),  # [{"pass": 3}, {"media": "a1"}, {"select": 2}]
    sqlite_autoincrement=True,
)  # fmt: skip

edit = Table(
    "edit", metadata,
    Column("id", Integer, primary_key=True),
    Column("name", String, nullable=False),
    Column("parent", Integer, nullable=True),
    Column("length", Integer, nullable=False),
    Column("lead", Integer, nullable=False, default=0, server_default="0"),  # frames of film before the song
    Column("tail", Integer, nullable=False, default=0, server_default="0"),  # and after it
    Column("fresh", Integer, nullable=False, default=1, server_default="1"),  # next id of a lane or item; never turned back
    Column("note", Text, nullable=False, default="", server_default=""),
    Column("made", String, nullable=False, default="", server_default=""),  # when, by the clock of the world (ISO 8601)
    Column("locked", Boolean, nullable=False, default=False, server_default="0"),
    sqlite_autoincrement=True,
)  # fmt: skip

edit_stamp = Table(
    "edit_stamp",
    metadata,
    Column("edit", Integer, primary_key=True, autoincrement=False),
    Column(
        "value", Integer, nullable=False
    ),  # random; renewed by triggers with every change of the edit's rows
)

lane = Table(
    "lane", metadata,
    Column("edit", Integer, ForeignKey("edit.id", ondelete="CASCADE"), primary_key=True),
    Column("id", Integer, primary_key=True, autoincrement=False),  # one numbering with the items of the edit
    Column("kind", String, nullable=False),
    Column("name", String, nullable=False),
    Column("position", Integer, nullable=False),  # from the bottom up
    Column("shown", Boolean, nullable=False, default=True),
    Column("locked", Boolean, nullable=False, default=False),
)  # fmt: skip

item = Table(
    "item", metadata,
    Column("edit", Integer, ForeignKey("edit.id", ondelete="CASCADE"), primary_key=True),
    Column("id", Integer, primary_key=True, autoincrement=False),
    Column("lane", Integer, nullable=False),
    Column("start", Integer, nullable=False),
    Column("end", Integer, nullable=True),  # none on a lane without gaps
    Column("source", JSON, nullable=False),
    Column("held", Boolean, nullable=False, default=False),
    Column("treated", JSON(none_as_null=True), nullable=True),  # {"treatments": [...], "whole": [0, 96] or null}
)  # fmt: skip

note = Table(
    "note", metadata,
    Column("id", Integer, primary_key=True),
    Column("edit", Integer, ForeignKey("edit.id", ondelete="CASCADE"), nullable=False),  # the version that was seen
    Column("start_s", Float, nullable=False),  # of the whole song
    Column("end_s", Float, nullable=False),  # the same for a moment
    Column("who", String, nullable=False, default="", server_default=""),
    Column("text", Text, nullable=False),
    Column("state", String, nullable=False, default="open", server_default="open"),  # open, done, will not do
    Column("why", String, nullable=False, default="", server_default=""),
    sqlite_autoincrement=True,
)  # fmt: skip

recipe = Table(
    "recipe", metadata,
    Column("id", Integer, primary_key=True),
    Column("name", String, nullable=False),
    Column("treatments", JSON, nullable=False),
    sqlite_autoincrement=True,
)  # fmt: skip

journal = Table(
    "journal", metadata,
    Column("number", Integer, primary_key=True),
    Column("name", String, nullable=False),
    Column("arguments", JSON, nullable=False, default=dict),
    Column("changes", JSON, nullable=False),
    Column("undone", Boolean, nullable=False, default=False),
    Column("edit", Integer, nullable=True),  # the edit it means; none: the project
    sqlite_autoincrement=True,
)  # fmt: skip

job = Table(
    "job", metadata,
    Column("id", Integer, primary_key=True),
    Column("kind", String, nullable=False),
    Column("title", String, nullable=False),
    Column("arguments", JSON, nullable=False, default=dict),
    Column("state", String, nullable=False, default="waiting"),  # waiting, running, done, failed, cancelled
    Column("progress", Float, nullable=False, default=0.0),
    Column("message", String, nullable=False, default=""),
    Column("error", Text, nullable=False, default=""),
    Column("cancel", Boolean, nullable=False, default=False),
    Column("result", JSON, nullable=False, default=dict),
    Column("edit", Integer, nullable=True),  # the edit that it is of
    Column("operations", Integer, nullable=True),  # how many had been done to that edit when it was asked for
    sqlite_autoincrement=True,
)  # fmt: skip
