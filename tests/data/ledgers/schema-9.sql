BEGIN TRANSACTION;
CREATE TABLE about (
	name VARCHAR(40) NOT NULL, 
	value TEXT NOT NULL, 
	PRIMARY KEY (name)
);
INSERT INTO "about" VALUES('schema','9');
INSERT INTO "about" VALUES('made_by','dryquarry 0.1.0');
CREATE TABLE asks (
	id INTEGER NOT NULL, 
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	PRIMARY KEY (id), 
	UNIQUE (digest)
);
INSERT INTO "asks" VALUES(1,'318609b0fb165e28cacb899b995a2c43ebdcf6b89a65beec94dfe8259e6cb5bc','{"of":"asks"}');
CREATE TABLE audits (id INTEGER NOT NULL PRIMARY KEY, suite TEXT NOT NULL, edition TEXT NOT NULL, seed INTEGER NOT NULL, drawn_at VARCHAR(32) NOT NULL, seal VARCHAR(32));
CREATE TABLE decisions (id INTEGER NOT NULL PRIMARY KEY, reply_id INTEGER NOT NULL REFERENCES replies (id), marking_id INTEGER NOT NULL REFERENCES markings (id), person TEXT NOT NULL, verdict VARCHAR(8) NOT NULL, score FLOAT, points TEXT, note TEXT, why_asked VARCHAR(12) NOT NULL, seconds FLOAT, decided_at VARCHAR(32) NOT NULL, taken_back_at VARCHAR(32), seal VARCHAR(32));
CREATE TABLE draws (id INTEGER NOT NULL PRIMARY KEY, audit_id INTEGER NOT NULL REFERENCES audits (id), reply_id INTEGER NOT NULL REFERENCES replies (id), marking_id INTEGER NOT NULL REFERENCES markings (id), stratum TEXT NOT NULL, stratum_size INTEGER NOT NULL, probability FLOAT NOT NULL, seal VARCHAR(32));
CREATE TABLE editions (
	id INTEGER NOT NULL, 
	suite TEXT NOT NULL, 
	number INTEGER NOT NULL, 
	digest VARCHAR(64) NOT NULL, 
	content TEXT NOT NULL, 
	noted_at VARCHAR(32) NOT NULL, seal VARCHAR(32), 
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
	tool_version VARCHAR(20) NOT NULL, answer_end INTEGER, rule TEXT, sure BOOLEAN, unsure_because TEXT, marked_by TEXT, outcome VARCHAR(12), seal VARCHAR(32), 
	PRIMARY KEY (id), 
	FOREIGN KEY(reply_id) REFERENCES replies (id), 
	FOREIGN KEY(marking_id) REFERENCES markings (id)
);
INSERT INTO "marks" VALUES(1,1,1,1,1.0,'pass','read ''1'' as 1; key 1','1','answer line',8,1,NULL,NULL,'2026-05-01T10:00:02.000+00:00','0.1.0',NULL,NULL,NULL,NULL,NULL,NULL,'f12fb5aad935510f3faf2caeb9c49257');
INSERT INTO "marks" VALUES(2,2,1,1,0.0,'fail','read ''2'' as 2; key 1','2','answer line',8,1,NULL,NULL,'2026-05-01T10:00:02.000+00:00','0.1.0',NULL,NULL,NULL,NULL,NULL,NULL,'ae5659beeedbdf5726ef0d8b0a80d685');
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
	follows INTEGER, seal VARCHAR(32), 
	PRIMARY KEY (id), 
	FOREIGN KEY(ask_id) REFERENCES asks (id), 
	FOREIGN KEY(sitter_id) REFERENCES sitters (id), 
	FOREIGN KEY(sitting_id) REFERENCES sittings (id), 
	FOREIGN KEY(follows) REFERENCES replies (id)
);
INSERT INTO "replies" VALUES(1,1,1,1,1,1,'answered','Answer: 1',NULL,'stop',NULL,0.5,NULL,9,3,NULL,NULL,NULL,NULL,'2026-05-01T10:00:01.000+00:00',NULL,NULL,'082ca90660d3eebfe5d1eed69f63bbd0');
INSERT INTO "replies" VALUES(2,1,1,2,1,1,'answered','Answer: 2',NULL,'stop',NULL,0.5,NULL,9,3,NULL,NULL,NULL,NULL,'2026-05-01T10:00:01.000+00:00',NULL,NULL,'b0d111b68013c5670ee8824e40387a02');
CREATE TABLE runs (
	id INTEGER NOT NULL, 
	suite TEXT NOT NULL, 
	edition TEXT NOT NULL, 
	started_at VARCHAR(32) NOT NULL, 
	ended_at VARCHAR(32), 
	tool_version VARCHAR(20) NOT NULL, seal VARCHAR(32), 
	PRIMARY KEY (id)
);
INSERT INTO "runs" VALUES(1,'sums','draft','2026-05-01T10:00:00.000+00:00','2026-05-01T10:01:00.000+00:00','0.1.0','5b99c57d2d464894173f4086b7e4a9bc');
CREATE TABLE seals (name VARCHAR(40) NOT NULL PRIMARY KEY, rows INTEGER NOT NULL, total VARCHAR(32) NOT NULL);
INSERT INTO "seals" VALUES('about',1,'01f5888220dbc3e8ec844fc25515a883');
INSERT INTO "seals" VALUES('asks',1,'66c651fb27dc196986e02f70793cc6f5');
INSERT INTO "seals" VALUES('markings',1,'af47436927f04e1ec7a3ea4bc064ce7a');
INSERT INTO "seals" VALUES('sitters',1,'81744a49d9c5b22418c97396145a4458');
INSERT INTO "seals" VALUES('runs',1,'5b99c57d2d464894173f4086b7e4a9bc');
INSERT INTO "seals" VALUES('sittings',1,'d68057ab5d75e6b79169469a7da8c2d3');
INSERT INTO "seals" VALUES('editions',0,'00000000000000000000000000000000');
INSERT INTO "seals" VALUES('replies',2,'b8fdbabce0e7b426f4ba7124df9c35d2');
INSERT INTO "seals" VALUES('marks',2,'9f860f69c8113066669e3a39c44568dc');
INSERT INTO "seals" VALUES('voids',0,'00000000000000000000000000000000');
INSERT INTO "seals" VALUES('verdicts',0,'00000000000000000000000000000000');
INSERT INTO "seals" VALUES('audits',0,'00000000000000000000000000000000');
INSERT INTO "seals" VALUES('draws',0,'00000000000000000000000000000000');
INSERT INTO "seals" VALUES('decisions',0,'00000000000000000000000000000000');
INSERT INTO "seals" VALUES('votes',0,'00000000000000000000000000000000');
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
	ended_at VARCHAR(32), fresh_since VARCHAR(32), seal VARCHAR(32), 
	PRIMARY KEY (id), 
	FOREIGN KEY(run_id) REFERENCES runs (id), 
	FOREIGN KEY(sitter_id) REFERENCES sitters (id)
);
INSERT INTO "sittings" VALUES(1,1,1,'curlew','standin:',NULL,NULL,NULL,NULL,'d68057ab5d75e6b79169469a7da8c2d3');
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
	received_at VARCHAR(32) NOT NULL, seal VARCHAR(32), time INTEGER, request_digest VARCHAR(64), request TEXT, steering TEXT, again BOOLEAN, 
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
	taken_back_at VARCHAR(32), seal VARCHAR(32), 
	PRIMARY KEY (id), 
	FOREIGN KEY(marking_id) REFERENCES markings (id)
);
CREATE TABLE votes (id INTEGER NOT NULL PRIMARY KEY, suite TEXT NOT NULL, edition TEXT NOT NULL, ask_id INTEGER NOT NULL REFERENCES asks (id), first_id INTEGER NOT NULL REFERENCES replies (id), second_id INTEGER NOT NULL REFERENCES replies (id), choice VARCHAR(8) NOT NULL, by TEXT NOT NULL, by_judge BOOLEAN NOT NULL, order_known BOOLEAN NOT NULL, because TEXT, seconds FLOAT, cost FLOAT, voted_at VARCHAR(32) NOT NULL, taken_back_at VARCHAR(32), seal VARCHAR(32));
CREATE UNIQUE INDEX one_content_per_edition ON editions (suite, number);
CREATE INDEX second_tries ON replies (follows) WHERE follows IS NOT NULL;
CREATE UNIQUE INDEX one_current_reply ON replies (sitter_id, ask_id, trial) WHERE current = 1;
CREATE INDEX replies_of_sitting ON replies (sitting_id);
CREATE UNIQUE INDEX one_current_mark ON marks (reply_id, marking_id) WHERE current = 1;
CREATE INDEX verdicts_of_reply ON verdicts (reply_id, marking_id);
CREATE INDEX draws_of_reply ON draws (reply_id);
CREATE INDEX decisions_of_reply ON decisions (reply_id, marking_id);
CREATE INDEX votes_of_ask ON votes (ask_id);
COMMIT;
