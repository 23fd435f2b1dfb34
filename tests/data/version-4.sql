PRAGMA application_id=1433231947;
PRAGMA user_version=4;
BEGIN TRANSACTION;
CREATE TABLE block (source INTEGER NOT NULL REFERENCES source, name TEXT NOT NULL, data BLOB NOT NULL,
        PRIMARY KEY (source, name));
INSERT INTO "block" VALUES(1,'title',X'53696C7420626568696E64207468652074696465206D696C6C2067617465730A53616C746D6172736820616363726574696F6E2061742046656E6D6572650A536C7569636573206F6620746865206C6F77657220657374756172790A');
INSERT INTO "block" VALUES(1,'entry',X'0A0A0A');
INSERT INTO "block" VALUES(1,'date',X'313938310A313938340A313939300A');
INSERT INTO "block" VALUES(1,'type',X'4A4F55520A4A4F55520A4A4F55520A');
INSERT INTO "block" VALUES(1,'language',X'0A0A0A');
INSERT INTO "block" VALUES(1,'doi',X'31302E39393939392F62772E310A0A0A');
INSERT INTO "block" VALUES(1,'volume',X'0A0A0A');
INSERT INTO "block" VALUES(1,'pages',X'0A0A0A');
INSERT INTO "block" VALUES(1,'line',X'010000000B00000014000000');
INSERT INTO "block" VALUES(1,'year',X'BD070000C0070000C6070000');
INSERT INTO "block" VALUES(1,'citations',X'000000000000000000000000');
INSERT INTO "block" VALUES(1,'likeness',X'02C463ABB7737EC0E322059B7638B96ECFF303443EF627EC');
INSERT INTO "block" VALUES(1,'weight',X'000000000000F03F000000000000F03F000000000000F03F');
INSERT INTO "block" VALUES(1,'passages',X'000000000000000000000000');
INSERT INTO "block" VALUES(1,'person record',X'000000000000000001000000010000000200000002000000');
INSERT INTO "block" VALUES(1,'person form',X'000000000100000002000000030000000100000003000000');
INSERT INTO "block" VALUES(1,'keyword record',X'000000000000000001000000010000000200000002000000');
INSERT INTO "block" VALUES(1,'keyword form',X'000000000100000002000000010000000300000000000000');
INSERT INTO "block" VALUES(1,'identity record',X'00000000');
INSERT INTO "block" VALUES(1,'identity key',X'C1C10EDF5E05F645');
INSERT INTO "block" VALUES(2,'title',X'576164696E67206269726473206F6E20746865206F7574657220666C6174730A466572727920746F6C6C7320616E64206D696C6C20647565732C20313738380A576164696E6720626972647320636F756E74656420616761696E0A');
INSERT INTO "block" VALUES(2,'entry',X'0A0A0A');
INSERT INTO "block" VALUES(2,'date',X'313939320A313939350A313939390A');
INSERT INTO "block" VALUES(2,'type',X'4A4F55520A4A4F55520A4A4F55520A');
INSERT INTO "block" VALUES(2,'language',X'0A0A0A');
INSERT INTO "block" VALUES(2,'doi',X'0A0A31302E39393939392F62772E390A');
INSERT INTO "block" VALUES(2,'volume',X'0A0A0A');
INSERT INTO "block" VALUES(2,'pages',X'0A0A0A');
INSERT INTO "block" VALUES(2,'line',X'010000000A00000013000000');
INSERT INTO "block" VALUES(2,'year',X'C8070000CB070000CF070000');
INSERT INTO "block" VALUES(2,'citations',X'000000000000000000000000');
INSERT INTO "block" VALUES(2,'likeness',X'0415E11EBA36DA20FF6CFF92FA99E2BA802F0B650FA4BB18');
INSERT INTO "block" VALUES(2,'weight',X'000000000000F03F000000000000F03F000000000000F03F');
INSERT INTO "block" VALUES(2,'passages',X'000000000000000000000000');
INSERT INTO "block" VALUES(2,'person record',X'000000000000000001000000010000000200000002000000');
INSERT INTO "block" VALUES(2,'person form',X'040000000500000004000000060000000400000000000000');
INSERT INTO "block" VALUES(2,'keyword record',X'000000000000000001000000010000000200000002000000');
INSERT INTO "block" VALUES(2,'keyword form',X'040000000200000005000000000000000400000001000000');
INSERT INTO "block" VALUES(2,'identity record',X'02000000');
INSERT INTO "block" VALUES(2,'identity key',X'271B0C87FE600062');
CREATE TABLE decision (
        id INTEGER PRIMARY KEY, kind TEXT NOT NULL, decision TEXT NOT NULL, form TEXT NOT NULL,
        preferred TEXT NOT NULL, scope TEXT NOT NULL, note TEXT NOT NULL, made TEXT NOT NULL,
        live INTEGER NOT NULL DEFAULT 1
    , effect TEXT NOT NULL DEFAULT '');
INSERT INTO "decision" VALUES(1,'person','merge','Dray, T.','Dray, Tamsin','','','2026-11-26T00:52:58+00:00',1,'');
INSERT INTO "decision" VALUES(2,'person','merge','Holt, P.','Holt, Peter','','','2026-11-26T00:52:58+00:00',1,'');
INSERT INTO "decision" VALUES(3,'keyword','aside','tolls','','','','2026-11-26T00:52:58+00:00',1,'');
INSERT INTO "decision" VALUES(4,'record','aside','export.ris:1','','','fits two','2026-11-26T00:52:58+00:00',1,'');
INSERT INTO "decision" VALUES(5,'record','aside','export.ris:19','','','no study','2026-11-26T00:52:58+00:00',1,'');
INSERT INTO "decision" VALUES(6,'person','split','Marlow, Ines','Marlow, Ines (tolls)','export.ris:10','','2026-11-26T00:52:58+00:00',1,'');
CREATE TABLE forms (kind TEXT NOT NULL, first INTEGER NOT NULL, texts BLOB NOT NULL, PRIMARY KEY (kind, first));
INSERT INTO "forms" VALUES('person',0,X'447261792C2054616D73696E0A486F6C742C20502E0A447261792C20542E0A5175696C6C2C204164610A');
INSERT INTO "forms" VALUES('keyword',0,X'74696465206D696C6C0A73696C740A73616C746D617273680A736C756963650A');
INSERT INTO "forms" VALUES('person',4,X'4D61726C6F772C20496E65730A5175696C6C2C20412E0A486F6C742C2050657465720A');
INSERT INTO "forms" VALUES('keyword',4,X'62697264730A746F6C6C730A');
CREATE TABLE memory (
        item TEXT PRIMARY KEY, x REAL NOT NULL, y REAL NOT NULL, topic INTEGER NOT NULL, pinned INTEGER NOT NULL
    ) WITHOUT ROWID;
INSERT INTO "memory" VALUES('birds',253.3697,-20.4535,1,0);
INSERT INTO "memory" VALUES('saltmarsh',0.0293,-20.4535,1,0);
INSERT INTO "memory" VALUES('silt',-253.3697,-20.4535,1,1);
INSERT INTO "memory" VALUES('sluice',-253.3697,20.4535,2,0);
INSERT INTO "memory" VALUES('tide mill',-228.7347,20.4535,2,0);
CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
INSERT INTO "meta" VALUES('memory','d2b62541d20a9e28cb4ac775');
INSERT INTO "meta" VALUES('recipe','[gather]
sources = []

[reconcile]
decisions = []

[reconcile.accept]

[relate]
tie = "co-occurrence"
of = "keyword"
counting = "full"
normalise = "none"
min_records = 1
max_per_record = 0
min_weight = 0.0
keep = "all"

[group]
quality = "modularity"
grain = 1.0
weighted = true
min_size = 1
seed = 1
runs = 20

[chart]
layout = "spread"
size_by = "records"
tint_by = "topic"
seed = 1

[report]
formats = [
    "svg",
    "png",
]
width_mm = 180.0
dpi = 300.0
title = ""
');
INSERT INTO "meta" VALUES('slots','[[0,0],[1,1]]');
CREATE TABLE passage (
        record INTEGER NOT NULL REFERENCES record, number INTEGER NOT NULL, line INTEGER NOT NULL,
        heading TEXT NOT NULL, text TEXT NOT NULL, PRIMARY KEY (record, number)
    ) WITHOUT ROWID;
CREATE TABLE problem (
        source INTEGER NOT NULL REFERENCES source, line INTEGER NOT NULL, message TEXT NOT NULL, excerpt TEXT NOT NULL
    );
CREATE TABLE record (
        id INTEGER PRIMARY KEY, source INTEGER NOT NULL REFERENCES source, line INTEGER NOT NULL, entry TEXT NOT NULL,
        type TEXT NOT NULL, title TEXT NOT NULL, year INTEGER NOT NULL, date TEXT NOT NULL, doi TEXT NOT NULL,
        citations INTEGER NOT NULL, abstract TEXT NOT NULL, abstract_at INTEGER NOT NULL, extra TEXT NOT NULL, raw TEXT NOT NULL
    );
INSERT INTO "record" VALUES(1,1,1,'','JOUR','Silt behind the tide mill gates',1981,'1981','10.99999/bw.1',0,'',-1,'','TY  - JOUR
TI  - Silt behind the tide mill gates
AU  - Dray, Tamsin
AU  - Holt, P.
KW  - tide mill
KW  - silt
PY  - 1981
DO  - 10.99999/bw.1
ER  - 
');
INSERT INTO "record" VALUES(2,1,11,'','JOUR','Saltmarsh accretion at Fenmere',1984,'1984','',0,'',-1,'','TY  - JOUR
TI  - Saltmarsh accretion at Fenmere
AU  - Dray, T.
AU  - Quill, Ada
KW  - saltmarsh
KW  - silt
PY  - 1984
ER  - 
');
INSERT INTO "record" VALUES(3,1,20,'','JOUR','Sluices of the lower estuary',1990,'1990','',0,'',-1,'','TY  - JOUR
TI  - Sluices of the lower estuary
AU  - Holt, P.
AU  - Quill, Ada
KW  - sluice
KW  - tide mill
PY  - 1990
ER  - 
');
INSERT INTO "record" VALUES(4,2,1,'','JOUR','Wading birds on the outer flats',1992,'1992','',0,'',-1,'','TY  - JOUR
TI  - Wading birds on the outer flats
AU  - Marlow, Ines
AU  - Quill, A.
KW  - birds
KW  - saltmarsh
PY  - 1992
ER  - 
');
INSERT INTO "record" VALUES(5,2,10,'','JOUR','Ferry tolls and mill dues, 1788',1995,'1995','',0,'',-1,'','TY  - JOUR
TI  - Ferry tolls and mill dues, 1788
AU  - Marlow, Ines
AU  - Holt, Peter
KW  - tolls
KW  - tide mill
PY  - 1995
ER  - 
');
INSERT INTO "record" VALUES(6,2,19,'','JOUR','Wading birds counted again',1999,'1999','10.99999/bw.9',0,'',-1,'','TY  - JOUR
TI  - Wading birds counted again
AU  - Marlow, Ines
AU  - Dray, Tamsin
KW  - birds
KW  - silt
PY  - 1999
DO  - 10.99999/bw.9
ER  - 
');
CREATE TABLE source (
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, path TEXT NOT NULL, format TEXT NOT NULL,
        encoding TEXT NOT NULL, sha256 TEXT NOT NULL, records INTEGER NOT NULL, added TEXT NOT NULL,
        live INTEGER NOT NULL DEFAULT 1
    , unit TEXT NOT NULL DEFAULT 'line', reading TEXT NOT NULL DEFAULT '', told TEXT NOT NULL DEFAULT '', held INTEGER NOT NULL DEFAULT 1, first INTEGER NOT NULL DEFAULT 1);
INSERT INTO "source" VALUES(1,'export.ris','a/export.ris','RIS','utf-8','c71ed61521ecef83da273dc7c607ba05c7ba0a73a8ad069d776439f894bb93ec',3,'2026-11-26T00:52:58+00:00',1,'line','','',1,1);
INSERT INTO "source" VALUES(2,'export.ris','b/export.ris','RIS','utf-8','5696a219a9ac59807f3efe8298c8060c3db162cc844b795621fcfeef83f93c81',3,'2026-11-26T00:52:58+00:00',1,'line','','',1,4);
CREATE TABLE step (
        id INTEGER PRIMARY KEY, label TEXT NOT NULL, change TEXT NOT NULL, made TEXT NOT NULL,
        done INTEGER NOT NULL DEFAULT 1
    );
INSERT INTO "step" VALUES(1,'new','{"switch":[],"recipe":["","[gather]\nsources = []\n\n[reconcile]\ndecisions = []\n\n[reconcile.accept]\n\n[relate]\ntie = \"co-occurrence\"\nof = \"keyword\"\ncounting = \"full\"\nnormalise = \"none\"\nmin_records = 1\nmax_per_record = 0\nmin_weight = 0.0\nkeep = \"all\"\n\n[group]\nquality = \"modularity\"\ngrain = 1.0\nweighted = true\nmin_size = 1\nseed = 1\nruns = 20\n\n[chart]\nlayout = \"spread\"\nsize_by = \"records\"\ntint_by = \"topic\"\nseed = 1\n\n[report]\nformats = [\n    \"svg\",\n    \"png\",\n]\nwidth_mm = 180.0\ndpi = 300.0\ntitle = \"\"\n"]}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(2,'add export.ris','{"switch":[["held",[1],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(3,'add export.ris','{"switch":[["held",[2],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(4,'m','{"switch":[["decision",[1,2],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(5,'x','{"switch":[["decision",[3],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(6,'out','{"switch":[["decision",[4],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(7,'out2','{"switch":[["decision",[5],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
INSERT INTO "step" VALUES(8,'split','{"switch":[["decision",[6],true]],"recipe":null}','2026-11-26T00:52:58+00:00',1);
COMMIT;