BEGIN TRANSACTION;
CREATE TABLE alembic_version (
	version_num VARCHAR(32) NOT NULL, 
	CONSTRAINT alembic_version_pkc PRIMARY KEY (version_num)
);
INSERT INTO "alembic_version" VALUES('0011');
CREATE TABLE "angle" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	number INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	hue INTEGER NOT NULL
, by_hand BOOLEAN DEFAULT '0' NOT NULL, because TEXT DEFAULT '' NOT NULL);
INSERT INTO "angle" VALUES(1,1,'Gallery',1,0,'');
CREATE TABLE corrections (
	id INTEGER NOT NULL, 
	data JSON NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "corrections" VALUES(1,'{}');
CREATE TABLE "edit" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	parent INTEGER, 
	length INTEGER NOT NULL
, fresh INTEGER DEFAULT '1' NOT NULL, lead INTEGER DEFAULT '0' NOT NULL, tail INTEGER DEFAULT '0' NOT NULL);
INSERT INTO "edit" VALUES(1,'Edit 1',NULL,2400,7,0,0);
INSERT INTO "edit" VALUES(2,'Uncut',NULL,960,5,0,0);
INSERT INTO "edit" VALUES(3,'Black on purpose',NULL,960,5,0,0);
INSERT INTO "edit" VALUES(4,'Cut',NULL,960,6,0,0);
CREATE TABLE edit_stamp (
	edit INTEGER NOT NULL, 
	value INTEGER NOT NULL, 
	PRIMARY KEY (edit)
);
INSERT INTO "edit_stamp" VALUES(1,5600426079321673056);
INSERT INTO "edit_stamp" VALUES(2,-7076560860126330866);
INSERT INTO "edit_stamp" VALUES(3,3370032957526865595);
INSERT INTO "edit_stamp" VALUES(4,2556751216066334480);
CREATE TABLE "feed" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	angle INTEGER NOT NULL, 
	start_s FLOAT NOT NULL, 
	end_s FLOAT NOT NULL, 
	pass_id INTEGER NOT NULL
);
INSERT INTO "feed" VALUES(1,1,8.5,24.0,1);
CREATE TABLE item (
	edit INTEGER NOT NULL, 
	id INTEGER NOT NULL, 
	lane INTEGER NOT NULL, 
	start INTEGER NOT NULL, 
	"end" INTEGER, 
	source JSON NOT NULL, 
	held BOOLEAN NOT NULL, 
	treated JSON, 
	PRIMARY KEY (edit, id), 
	FOREIGN KEY(edit) REFERENCES edit (id) ON DELETE CASCADE
);
INSERT INTO "item" VALUES(1,4,1,0,NULL,'{"kind": "black"}',0,NULL);
INSERT INTO "item" VALUES(1,5,1,204,NULL,'{"kind": "angle", "angle": 1}',1,NULL);
INSERT INTO "item" VALUES(2,4,1,0,NULL,'{"kind": "empty"}',0,NULL);
INSERT INTO "item" VALUES(3,4,1,0,NULL,'{"kind": "black"}',1,NULL);
INSERT INTO "item" VALUES(4,4,1,0,NULL,'{"kind": "black"}',0,NULL);
INSERT INTO "item" VALUES(4,5,1,48,NULL,'{"kind": "black"}',0,NULL);
INSERT INTO "item" VALUES(1,6,2,300,348,'{"kind": "clip", "media": "clip01", "in_s": 1.5, "speed": 0.5}',0,NULL);
CREATE TABLE "job" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	kind VARCHAR NOT NULL, 
	title VARCHAR NOT NULL, 
	arguments JSON NOT NULL, 
	state VARCHAR NOT NULL, 
	progress FLOAT NOT NULL, 
	message VARCHAR NOT NULL, 
	error TEXT NOT NULL, 
	cancel BOOLEAN NOT NULL, 
	result JSON NOT NULL
, edit INTEGER, operations INTEGER);
INSERT INTO "job" VALUES(1,'prepare','Preparing GAL_01','{"media": "take01"}','done',0.0,'','',0,'{}',NULL,NULL);
CREATE TABLE "journal" (
	number INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	arguments JSON NOT NULL, 
	changes JSON NOT NULL, 
	undone BOOLEAN NOT NULL
, edit INTEGER);
INSERT INTO "journal" VALUES(1,'Add angle 1','{}','[{"table": "angle", "before": null, "after": {"id": 1, "number": 1, "name": "Gallery", "hue": 1}}]',0,NULL);
INSERT INTO "journal" VALUES(2,'Lock GAL_01','{}','[{"table": "pass", "before": null, "after": {"id": 1, "media": "take01", "take_start_s": 1.0, "take_end_s": 90.0, "song_start_s": 0.0, "rate": 1.0, "status": "locked", "confidence": 0.99, "origin": "found", "found": {}, "angle": 1, "position": 1}}]',0,NULL);
INSERT INTO "journal" VALUES(3,'Circle GAL_01','{}','[{"table": "feed", "before": null, "after": {"id": 1, "angle": 1, "start_s": 8.5, "end_s": 24.0, "pass_id": 1}}]',0,NULL);
INSERT INTO "journal" VALUES(4,'Nudge GAL_01','{}','[{"table": "pass", "before": {"id": 1, "media": "take01", "take_start_s": 1.0, "take_end_s": 90.0, "song_start_s": 0.0, "rate": 1.0, "status": "locked", "confidence": 0.99, "origin": "found", "found": {}, "angle": 1, "position": 1}, "after": {"id": 1, "media": "take01", "take_start_s": 1.0, "take_end_s": 90.0, "song_start_s": 0.041, "rate": 1.0, "status": "locked", "confidence": 0.99, "origin": "by hand", "found": {}, "angle": 1, "position": 1}}]',0,NULL);
INSERT INTO "journal" VALUES(5,'Tap a mark','{}','[{"table": "mark_set", "before": null, "after": {"id": 1, "name": "tapped", "shown": true, "hue": 0}}, {"table": "mark", "before": null, "after": {"id": 1, "set_id": 1, "at_s": 1.0, "name": "", "hue": -1}}, {"table": "mark", "before": null, "after": {"id": 2, "set_id": 1, "at_s": 2.5, "name": "", "hue": -1}}]',0,NULL);
INSERT INTO "journal" VALUES(6,'Cut','{}','[{"table": "item", "key": {"edit": 1, "id": 5}, "before": null, "after": {"edit": 1, "id": 5, "lane": 1, "start": 204, "end": null, "source": {"kind": "angle", "angle": 1}, "held": true, "treated": null}}, {"table": "item", "key": {"edit": 1, "id": 6}, "before": null, "after": {"edit": 1, "id": 6, "lane": 2, "start": 300, "end": 348, "source": {"kind": "clip", "media": "clip01", "in_s": 1.5, "speed": 0.5}, "held": false, "treated": null}}]',0,NULL);
INSERT INTO "journal" VALUES(7,'Take out LAMP_03','{}','[{"table": "lineup", "before": {"media": "take02", "status": "locked", "confidence": 0.99, "declined": false}, "after": null}, {"table": "media", "before": {"id": "take02", "kind": "take", "name": "LAMP_03", "root": "project", "path": "media/LAMP_03.mp4", "content": "c0ffeetake02", "facts": {"duration_s": 100.0, "rate": "24", "has_sound": true}, "tags": {}, "state": "ready", "error": "", "position": 0}, "after": null}]',0,NULL);
INSERT INTO "journal" VALUES(8,'Delete marks','{}','[{"table": "mark", "before": {"id": 1, "set_id": 1, "at_s": 1.0, "name": "", "hue": -1}, "after": null}, {"table": "mark", "before": {"id": 2, "set_id": 1, "at_s": 2.5, "name": "", "hue": -1}, "after": null}, {"table": "mark_set", "before": {"id": 1, "name": "tapped", "shown": true, "hue": 0}, "after": null}]',0,NULL);
INSERT INTO "journal" VALUES(9,'Rename Chorus 1','{}','[{"table": "section", "before": {"id": 3, "start_s": 24.0, "name": "Refrain", "phrase_bars": 4, "repeat_group": 3}, "after": {"id": 3, "start_s": 24.0, "name": "Chorus 1", "phrase_bars": 4, "repeat_group": 3}}]',1,NULL);
INSERT INTO "journal" VALUES(10,'Split a section','{}','[{"table": "section", "before": {"id": 4, "start_s": 40.0, "name": "Bridge", "phrase_bars": 4, "repeat_group": 9}, "after": null}]',1,NULL);
CREATE TABLE lane (
	edit INTEGER NOT NULL, 
	id INTEGER NOT NULL, 
	kind VARCHAR NOT NULL, 
	name VARCHAR NOT NULL, 
	position INTEGER NOT NULL, 
	shown BOOLEAN NOT NULL, 
	locked BOOLEAN NOT NULL, 
	PRIMARY KEY (edit, id), 
	FOREIGN KEY(edit) REFERENCES edit (id) ON DELETE CASCADE
);
INSERT INTO "lane" VALUES(1,1,'base','Shots',0,1,0);
INSERT INTO "lane" VALUES(1,2,'over','Cutaways',1,1,0);
INSERT INTO "lane" VALUES(1,3,'ranges','Treated ranges',2,1,0);
INSERT INTO "lane" VALUES(2,1,'base','Shots',0,1,0);
INSERT INTO "lane" VALUES(2,2,'over','Cutaways',1,1,0);
INSERT INTO "lane" VALUES(2,3,'ranges','Treated ranges',2,1,0);
INSERT INTO "lane" VALUES(3,1,'base','Shots',0,1,0);
INSERT INTO "lane" VALUES(3,2,'over','Cutaways',1,1,0);
INSERT INTO "lane" VALUES(3,3,'ranges','Treated ranges',2,1,0);
INSERT INTO "lane" VALUES(4,1,'base','Shots',0,1,0);
INSERT INTO "lane" VALUES(4,2,'over','Cutaways',1,1,0);
INSERT INTO "lane" VALUES(4,3,'ranges','Treated ranges',2,1,0);
CREATE TABLE "left_out" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	start_s FLOAT NOT NULL, 
	end_s FLOAT NOT NULL
);
CREATE TABLE lineup (
	media VARCHAR NOT NULL, 
	status VARCHAR NOT NULL, 
	confidence FLOAT NOT NULL, declined BOOLEAN DEFAULT '0' NOT NULL, song VARCHAR DEFAULT '' NOT NULL, 
	PRIMARY KEY (media), 
	FOREIGN KEY(media) REFERENCES media (id) ON DELETE CASCADE
);
INSERT INTO "lineup" VALUES('take01','locked',0.99,0,'song01');
CREATE TABLE listed_shot (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	position INTEGER DEFAULT '0' NOT NULL, 
	section VARCHAR DEFAULT '' NOT NULL, 
	what VARCHAR NOT NULL, 
	camera VARCHAR DEFAULT '' NOT NULL, 
	note TEXT DEFAULT '' NOT NULL, 
	done JSON DEFAULT '[]' NOT NULL
);
CREATE TABLE "lyric" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	at_s FLOAT NOT NULL, 
	text VARCHAR NOT NULL, 
	position INTEGER DEFAULT '0' NOT NULL, 
	timed BOOLEAN DEFAULT '1' NOT NULL, 
	words JSON DEFAULT '[]' NOT NULL
);
CREATE TABLE "mark" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	set_id INTEGER NOT NULL, 
	at_s FLOAT NOT NULL, 
	name VARCHAR NOT NULL, 
	hue INTEGER DEFAULT '-1' NOT NULL, 
	FOREIGN KEY(set_id) REFERENCES mark_set (id) ON DELETE CASCADE
);
CREATE TABLE "mark_set" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	shown BOOLEAN NOT NULL, 
	hue INTEGER DEFAULT '0' NOT NULL
);
CREATE TABLE media (
	id VARCHAR NOT NULL, 
	kind VARCHAR NOT NULL, 
	name VARCHAR NOT NULL, 
	root VARCHAR NOT NULL, 
	path VARCHAR NOT NULL, 
	content VARCHAR NOT NULL, 
	facts JSON NOT NULL, 
	tags JSON NOT NULL, 
	state VARCHAR NOT NULL, 
	error TEXT NOT NULL, 
	position INTEGER NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "media" VALUES('song01','song','Lamp Room','project','media/Lamp Room.mp4','c0ffeesong01','{"duration_s": 100.0, "rate": "24", "has_sound": true}','{}','ready','',0);
INSERT INTO "media" VALUES('take01','take','GAL_01','project','media/GAL_01.mp4','c0ffeetake01','{"duration_s": 100.0, "rate": "24", "has_sound": true}','{}','ready','',0);
INSERT INTO "media" VALUES('clip01','broll','gulls','project','media/gulls.mp4','c0ffeeclip01','{"duration_s": 100.0, "rate": "24", "has_sound": true}','{}','ready','',0);
CREATE TABLE "pass" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	media VARCHAR NOT NULL, 
	take_start_s FLOAT NOT NULL, 
	take_end_s FLOAT NOT NULL, 
	song_start_s FLOAT NOT NULL, 
	rate FLOAT NOT NULL, 
	status VARCHAR NOT NULL, 
	confidence FLOAT NOT NULL, 
	origin VARCHAR NOT NULL, 
	found JSON NOT NULL, 
	angle INTEGER, 
	position INTEGER NOT NULL, verdict VARCHAR DEFAULT '' NOT NULL, note TEXT DEFAULT '' NOT NULL, 
	FOREIGN KEY(angle) REFERENCES angle (id) ON DELETE SET NULL, 
	FOREIGN KEY(media) REFERENCES media (id) ON DELETE CASCADE
);
INSERT INTO "pass" VALUES(1,'take01',1.0,90.0,0.041,1.0,'locked',0.99,'by hand','{}',1,1,'','');
CREATE TABLE project (
	id INTEGER NOT NULL, 
	name VARCHAR NOT NULL, 
	rate VARCHAR NOT NULL, 
	width INTEGER NOT NULL, 
	height INTEGER NOT NULL, 
	first_frame INTEGER NOT NULL, 
	song VARCHAR, 
	edit INTEGER, 
	settings JSON NOT NULL, level JSON DEFAULT '{}' NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "project" VALUES(1,'Lamp Room','24',1280,720,0,'song01',1,'{"unit": "beat", "lead": 1}','{}');
CREATE TABLE recipe (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	name VARCHAR NOT NULL, 
	treatments JSON NOT NULL
);
CREATE TABLE "section" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	start_s FLOAT NOT NULL, 
	name VARCHAR NOT NULL, 
	phrase_bars INTEGER NOT NULL, 
	repeat_group INTEGER NOT NULL
, "plan" JSON);
INSERT INTO "section" VALUES(1,0.0,'Intro',4,1,'{"shortest": 2, "longest": 4, "broll": 0.25, "leads": [1]}');
INSERT INTO "section" VALUES(2,8.5,'Verse 1',4,2,NULL);
INSERT INTO "section" VALUES(3,24.0,'Chorus 1',4,3,NULL);
CREATE TABLE "select" (
	id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, 
	media VARCHAR NOT NULL, 
	in_s FLOAT NOT NULL, 
	out_s FLOAT NOT NULL, 
	name VARCHAR NOT NULL, 
	said JSON DEFAULT '{}' NOT NULL, 
	FOREIGN KEY(media) REFERENCES media (id) ON DELETE CASCADE
);
CREATE TRIGGER item_insert AFTER INSERT ON item BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (NEW.edit, random()); END;
CREATE TRIGGER item_update AFTER UPDATE ON item BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (NEW.edit, random()); END;
CREATE TRIGGER lane_insert AFTER INSERT ON lane BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (NEW.edit, random()); END;
CREATE TRIGGER lane_update AFTER UPDATE ON lane BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (NEW.edit, random()); END;
CREATE TRIGGER edit_insert AFTER INSERT ON edit BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (NEW.id, random()); END;
CREATE TRIGGER edit_update AFTER UPDATE ON edit BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (NEW.id, random()); END;
CREATE TRIGGER item_delete AFTER DELETE ON item BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (OLD.edit, random()); END;
CREATE TRIGGER lane_delete AFTER DELETE ON lane BEGIN INSERT OR REPLACE INTO edit_stamp VALUES (OLD.edit, random()); END;
CREATE TRIGGER edit_delete AFTER DELETE ON edit BEGIN DELETE FROM edit_stamp WHERE edit = OLD.id; END;
DELETE FROM "sqlite_sequence";
INSERT INTO "sqlite_sequence" VALUES('section',4);
INSERT INTO "sqlite_sequence" VALUES('lyric',0);
INSERT INTO "sqlite_sequence" VALUES('mark_set',1);
INSERT INTO "sqlite_sequence" VALUES('mark',2);
INSERT INTO "sqlite_sequence" VALUES('left_out',0);
INSERT INTO "sqlite_sequence" VALUES('angle',1);
INSERT INTO "sqlite_sequence" VALUES('pass',1);
INSERT INTO "sqlite_sequence" VALUES('feed',1);
INSERT INTO "sqlite_sequence" VALUES('edit',4);
INSERT INTO "sqlite_sequence" VALUES('journal',10);
INSERT INTO "sqlite_sequence" VALUES('job',1);
INSERT INTO "sqlite_sequence" VALUES('select',0);
INSERT INTO "sqlite_sequence" VALUES('listed_shot',0);
INSERT INTO "sqlite_sequence" VALUES('recipe',0);
COMMIT;
