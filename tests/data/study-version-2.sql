BEGIN TRANSACTION;
CREATE TABLE decision (
        id INTEGER PRIMARY KEY, kind TEXT NOT NULL, decision TEXT NOT NULL, form TEXT NOT NULL,
        preferred TEXT NOT NULL, scope TEXT NOT NULL, note TEXT NOT NULL, made TEXT NOT NULL,
        live INTEGER NOT NULL DEFAULT 1
    );
INSERT INTO "decision" VALUES(1,'person','merge','Maddern, Ilse','Dray, Tamsin','','','2026-11-23T20:23:59+00:00',1);
CREATE TABLE form (
        kind TEXT NOT NULL, number INTEGER NOT NULL, text TEXT NOT NULL, PRIMARY KEY (kind, number)
    ) WITHOUT ROWID;
INSERT INTO "form" VALUES('institution',0,'Holm Institute');
INSERT INTO "form" VALUES('keyword',0,'tide');
INSERT INTO "form" VALUES('person',0,'Vashley, Orrin');
INSERT INTO "form" VALUES('person',1,'Dray, Tamsin');
INSERT INTO "form" VALUES('person',2,'Maddern, Ilse');
INSERT INTO "form" VALUES('reference',0,'Elder A, 1901');
INSERT INTO "form" VALUES('venue',0,'Mud and Silt');
CREATE TABLE memory (
        item TEXT PRIMARY KEY, x REAL NOT NULL, y REAL NOT NULL, topic INTEGER NOT NULL, pinned INTEGER NOT NULL
    ) WITHOUT ROWID;
CREATE TABLE mention (
        source INTEGER NOT NULL REFERENCES source, kind TEXT NOT NULL, records BLOB NOT NULL, forms BLOB NOT NULL,
        PRIMARY KEY (source, kind)
    );
INSERT INTO "mention" VALUES(1,'person',X'010000000100000002000000',X'000000000100000001000000');
INSERT INTO "mention" VALUES(1,'keyword',X'01000000',X'00000000');
INSERT INTO "mention" VALUES(1,'venue',X'01000000',X'00000000');
INSERT INTO "mention" VALUES(1,'institution',X'01000000',X'00000000');
INSERT INTO "mention" VALUES(1,'reference',X'01000000',X'00000000');
INSERT INTO "mention" VALUES(2,'person',X'03000000',X'02000000');
CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE problem (
        source INTEGER NOT NULL REFERENCES source, line INTEGER NOT NULL, message TEXT NOT NULL, excerpt TEXT NOT NULL
    );
CREATE TABLE record (
        id INTEGER PRIMARY KEY, source INTEGER NOT NULL REFERENCES source, line INTEGER NOT NULL, entry TEXT NOT NULL,
        type TEXT NOT NULL, title TEXT NOT NULL, year INTEGER NOT NULL, date TEXT NOT NULL, doi TEXT NOT NULL,
        citations INTEGER NOT NULL, abstract TEXT NOT NULL, abstract_at INTEGER NOT NULL, extra TEXT NOT NULL, raw TEXT NOT NULL
    );
INSERT INTO "record" VALUES(1,1,1,'1','JOUR','Sluice timing',1998,'1998','',0,'',-1,'','TY  - JOUR
ID  - 1
TI  - Sluice timing
AU  - Vashley, Orrin
AU  - Dray, Tamsin
PY  - 1998
KW  - tide
T2  - Mud and Silt
AD  - Holm Institute, Holm, Norway
CR  - Elder A, 1901
ER  - 
');
INSERT INTO "record" VALUES(2,1,13,'','JOUR','Old carbon',2001,'2001','',0,'',-1,'','TY  - JOUR
TI  - Old carbon
AU  - Dray, Tamsin
PY  - 2001
ER  - 
');
INSERT INTO "record" VALUES(3,2,2,'','','Third',0,'','',0,'',-1,'','Third,"Maddern, Ilse"
');
CREATE TABLE source (
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, path TEXT NOT NULL, format TEXT NOT NULL,
        encoding TEXT NOT NULL, sha256 TEXT NOT NULL, records INTEGER NOT NULL, added TEXT NOT NULL,
        live INTEGER NOT NULL DEFAULT 1
    );
INSERT INTO "source" VALUES(1,'a.ris','/tmp/v2/a.ris','RIS','utf-8','18d216d40cadfc2ef2f21dcc1bfa1d4ec3f0519a45b823c6b10cf1345bf449ac',2,'2026-11-23T20:23:59+00:00',1);
INSERT INTO "source" VALUES(2,'b.csv','/tmp/v2/b.csv','CSV','utf-8','4f9c9ea4b1a4461353f8de8ed0785720bb924a9ab31f7ca3316c65aa11599eb8',1,'2026-11-23T20:23:59+00:00',1);
CREATE TABLE step (
        id INTEGER PRIMARY KEY, label TEXT NOT NULL, change TEXT NOT NULL, made TEXT NOT NULL,
        done INTEGER NOT NULL DEFAULT 1
    );
INSERT INTO "step" VALUES(1,'add a.ris','{"switch":[["source",[1],true]],"recipe":null}','2026-11-23T20:23:59+00:00',1);
INSERT INTO "step" VALUES(2,'add b.csv','{"switch":[["source",[2],true]],"recipe":null}','2026-11-23T20:23:59+00:00',1);
INSERT INTO "step" VALUES(3,'m','{"switch":[["decision",[1],true]],"recipe":null}','2026-11-23T20:23:59+00:00',1);
COMMIT;