BEGIN TRANSACTION;
CREATE TABLE about (
	name VARCHAR(40) NOT NULL, 
	value TEXT NOT NULL, 
	PRIMARY KEY (name)
);
INSERT INTO "about" VALUES('schema','7');
INSERT INTO "about" VALUES('made_by','dryquarry 0.1.0');
CREATE TABLE asks (
	id INTEGER NOT NULL, 
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (digest)
);
INSERT INTO "asks" VALUES(1,'318609b0fb165e28cacb899b995a2c43ebdcf6b89a65beec94dfe8259e6cb5bc','{"of":"asks"}');
CREATE TABLE editions (
	id INTEGER NOT NULL, 
	suite TEXT NOT NULL, 
	number INTEGER NOT NULL, 
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	noted_at VARCHAR(32) NOT NULL, 
	PRIMARY KEY (id)
);
CREATE TABLE markings (
	id INTEGER NOT NULL, 
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (digest)
);
INSERT INTO "markings" VALUES(1,'bcfe59036809ceccba21000ce443b5ffc4703df7bedefebde0460ebdd9614924','{"of":"markings"}');
CREATE TABLE marks (
	id INTEGER NOT NULL, 
	reply_id INTEGER NOT NULL, 
	marking_id INTEGER NOT NULL, 
	current BOOLEAN NOT NULL, 
	score FLOAT, 
	verdict VARCHAR(8) NOT NULL, 
	reason TEXT NOT NULL, 
	answer TEXT, 
	read_by TEXT, 
	answer_start INTEGER, 
	form_kept BOOLEAN, 
	because TEXT, 
	superseded_because TEXT, 
	marked_at VARCHAR(32) NOT NULL, 
	tool_version VARCHAR(20) NOT NULL, answer_end INTEGER, rule TEXT, sure BOOLEAN, unsure_because TEXT, marked_by TEXT, outcome VARCHAR(12), 
	PRIMARY KEY (id), 
	FOREIGN KEY(reply_id) REFERENCES replies (id), 
	FOREIGN KEY(marking_id) REFERENCES markings (id)
);
INSERT INTO "marks" VALUES(1,1,1,1,1.0,'pass','read ''1'' as 1; key 1','1','answer line',8,1,NULL,NULL,'2026-05-01T10:00:02.000+00:00','0.1.0',NULL,NULL,NULL,NULL,NULL,NULL);
INSERT INTO "marks" VALUES(2,2,1,1,0.0,'fail','read ''2'' as 2; key 1','2','answer line',8,1,NULL,NULL,'2026-05-01T10:00:02.000+00:00','0.1.0',NULL,NULL,NULL,NULL,NULL,NULL);
CREATE TABLE replies (
	id INTEGER NOT NULL, 
	ask_id INTEGER NOT NULL, 
	sitter_id INTEGER NOT NULL, 
	trial INTEGER NOT NULL, 
	sitting_id INTEGER NOT NULL, 
	current BOOLEAN NOT NULL, 
	outcome VARCHAR(12) NOT NULL, 
	text TEXT NOT NULL, 
	reasoning TEXT, 
	finish TEXT, 
	cause TEXT, 
	seconds FLOAT, 
	first_token_s FLOAT, 
	input_tokens INTEGER, 
	output_tokens INTEGER, 
	served_model TEXT, 
	tokens_estimated BOOLEAN, 
	tries INTEGER, 
	earlier_turns TEXT, 
	received_at VARCHAR(32) NOT NULL, 
	fingerprint TEXT, 
	follows INTEGER, 
	PRIMARY KEY (id), 
	FOREIGN KEY(ask_id) REFERENCES asks (id), 
	FOREIGN KEY(sitter_id) REFERENCES sitters (id), 
	FOREIGN KEY(sitting_id) REFERENCES sittings (id), 
	FOREIGN KEY(follows) REFERENCES replies (id)
);
INSERT INTO "replies" VALUES(1,1,1,1,1,1,'answered','Answer: 1',NULL,'stop',NULL,0.5,NULL,9,3,NULL,NULL,NULL,NULL,'2026-05-01T10:00:01.000+00:00',NULL,NULL);
INSERT INTO "replies" VALUES(2,1,1,2,1,1,'answered','Answer: 2',NULL,'stop',NULL,0.5,NULL,9,3,NULL,NULL,NULL,NULL,'2026-05-01T10:00:01.000+00:00',NULL,NULL);
CREATE TABLE runs (
	id INTEGER NOT NULL, 
	suite TEXT NOT NULL, 
	edition TEXT NOT NULL, 
	started_at VARCHAR(32) NOT NULL, 
	ended_at VARCHAR(32), 
	tool_version VARCHAR(20) NOT NULL, 
	PRIMARY KEY (id)
);
INSERT INTO "runs" VALUES(1,'sums','draft','2026-05-01T10:00:00.000+00:00','2026-05-01T10:01:00.000+00:00','0.1.0');
CREATE TABLE sitters (
	id INTEGER NOT NULL, 
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (digest)
);
INSERT INTO "sitters" VALUES(1,'07a69aafac7e7ce08be89fc148375a022796e60ec7718b97ccb09b8a48a58f18','{"of":"sitters"}');
CREATE TABLE sittings (
	id INTEGER NOT NULL, 
	run_id INTEGER NOT NULL, 
	sitter_id INTEGER NOT NULL, 
	entrant TEXT NOT NULL, 
	endpoint TEXT, 
	settings TEXT, 
	started_at VARCHAR(32), 
	ended_at VARCHAR(32), fresh_since VARCHAR(32), 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES runs (id), 
	FOREIGN KEY(sitter_id) REFERENCES sitters (id)
);
INSERT INTO "sittings" VALUES(1,1,1,'curlew','standin:',NULL,NULL,NULL,NULL);
CREATE TABLE verdicts (
	id INTEGER NOT NULL, 
	reply_id INTEGER NOT NULL, 
	marking_id INTEGER NOT NULL, 
	judge_id INTEGER NOT NULL, 
	judge TEXT NOT NULL, 
	text TEXT NOT NULL, 
	points TEXT, 
	problem TEXT, 
	attempts INTEGER NOT NULL, 
	seconds FLOAT NOT NULL, 
	input_tokens INTEGER, 
	output_tokens INTEGER, 
	received_at VARCHAR(32) NOT NULL, 
	PRIMARY KEY (id), 
	FOREIGN KEY(reply_id) REFERENCES replies (id), 
	FOREIGN KEY(marking_id) REFERENCES markings (id), 
	FOREIGN KEY(judge_id) REFERENCES sitters (id)
);
CREATE TABLE voids (
	id INTEGER NOT NULL, 
	suite TEXT NOT NULL, 
	question TEXT NOT NULL, 
	marking_id INTEGER NOT NULL, 
	because TEXT NOT NULL, 
	since VARCHAR(32) NOT NULL, 
	taken_back_at VARCHAR(32), 
	PRIMARY KEY (id), 
	FOREIGN KEY(marking_id) REFERENCES markings (id)
);
CREATE UNIQUE INDEX one_content_per_edition ON editions (suite, number);
CREATE INDEX second_tries ON replies (follows) WHERE follows IS NOT NULL;
CREATE UNIQUE INDEX one_current_reply ON replies (sitter_id, ask_id, trial) WHERE current = 1;
CREATE INDEX replies_of_sitting ON replies (sitting_id);
CREATE UNIQUE INDEX one_current_mark ON marks (reply_id, marking_id) WHERE current = 1;
CREATE INDEX verdicts_of_reply ON verdicts (reply_id, marking_id);
COMMIT;
