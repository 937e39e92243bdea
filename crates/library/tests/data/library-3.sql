PRAGMA foreign_keys = OFF;
BEGIN TRANSACTION;
CREATE TABLE contents (
    hash   TEXT PRIMARY KEY,
    format TEXT NOT NULL,
    bytes  INTEGER NOT NULL,
    width  INTEGER NOT NULL, -- oriented
    height INTEGER NOT NULL
) STRICT;
INSERT INTO "contents" VALUES('c915b70b2f6afcf6a75cfe07ea1f6b8aae760cd5e9a2965e77890b57666c69ef','PNG',1089,60,40);
INSERT INTO "contents" VALUES('268e1923b71e0960a2a49a5a1c17bbd93d2a78cc08065ec7590a7071831dba6a','PNG',1092,60,40);
CREATE TABLE facts (
    name  TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT;
INSERT INTO "facts" VALUES('pinned stocks','juniper');
CREATE TABLE "frames" (
    id       INTEGER PRIMARY KEY AUTOINCREMENT,
    roll     INTEGER NOT NULL REFERENCES rolls (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name     TEXT NOT NULL,
    content  TEXT NOT NULL REFERENCES contents (hash),
    revision INTEGER NOT NULL DEFAULT 0,
    cursor   INTEGER NOT NULL DEFAULT 0,
    exported INTEGER
) STRICT;
INSERT INTO "frames" VALUES(1,1,1,'Hill','c915b70b2f6afcf6a75cfe07ea1f6b8aae760cd5e9a2965e77890b57666c69ef',4,4,NULL);
INSERT INTO "frames" VALUES(2,1,2,'Quay','268e1923b71e0960a2a49a5a1c17bbd93d2a78cc08065ec7590a7071831dba6a',0,0,NULL);
CREATE TABLE history (
    frame       INTEGER NOT NULL REFERENCES frames (id) ON DELETE CASCADE,
    step        INTEGER NOT NULL,
    label       TEXT NOT NULL, -- what the step did, in words
    development TEXT NOT NULL, masks TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (frame, step)
) STRICT, WITHOUT ROWID;
INSERT INTO "history" VALUES(1,0,'Loaded',
  '{"version":1,"engine":"0.1.0","stock":{"id":"plover","hash":"ed87fe3692bd81960cf6573c552a1566163d178'
  || '5470f346662b9014c923fa50c"},"seed":3373643531,"values":{}}','');
INSERT INTO "history" VALUES(1,1,'Exposure +0.50 EV',
  '{"version":1,"engine":"0.1.0","stock":{"id":"plover","hash":"ed87fe3692bd81960cf6573c552a1566163d178'
  || '5470f346662b9014c923fa50c"},"seed":3373643531,"values":{"scene.exposure":0.5}}','');
INSERT INTO "history" VALUES(1,2,'Mask Sky',
  '{"version":1,"engine":"0.1.0","stock":{"id":"plover","hash":"ed87fe3692bd81960cf6573c552a1566163d178'
  || '5470f346662b9014c923fa50c"},"seed":3373643531,"values":{"scene.exposure":0.5}}',
  '{"1":{"name":"Sky","parts":[{"join":"add","kind":"brush","strokes":[1]}],"inverted":false,"feather":'
  || '0.0}}');
INSERT INTO "history" VALUES(1,3,'Mask Sky',
  '{"version":1,"engine":"0.1.0","stock":{"id":"plover","hash":"ed87fe3692bd81960cf6573c552a1566163d178'
  || '5470f346662b9014c923fa50c"},"seed":3373643531,"values":{"scene.exposure":0.5}}',
  '{"1":{"name":"Sky","parts":[{"join":"add","kind":"brush","strokes":[1,2]}],"inverted":false,"feather'
  || '":0.0}}');
INSERT INTO "history" VALUES(1,4,'Mask Sky',
  '{"version":1,"engine":"0.1.0","stock":{"id":"plover","hash":"ed87fe3692bd81960cf6573c552a1566163d178'
  || '5470f346662b9014c923fa50c"},"seed":3373643531,"values":{"scene.exposure":0.5}}',
  '{"1":{"name":"Sky","parts":[{"join":"add","kind":"brush","strokes":[1,2,3]}],"inverted":false,"feath'
  || 'er":0.0}}');
INSERT INTO "history" VALUES(2,0,'Loaded',
  '{"version":1,"engine":"0.1.0","stock":{"id":"plover","hash":"ed87fe3692bd81960cf6573c552a1566163d178'
  || '5470f346662b9014c923fa50c"},"seed":646846755,"values":{}}','');
CREATE TABLE loose (
    hash TEXT PRIMARY KEY
) STRICT, WITHOUT ROWID;
CREATE TABLE own_stocks (
    id    TEXT PRIMARY KEY,
    place INTEGER NOT NULL, -- order on the board
    data  TEXT NOT NULL
) STRICT;
CREATE TABLE "rolls" (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    name    TEXT NOT NULL,
    created INTEGER NOT NULL
) STRICT;
INSERT INTO "rolls" VALUES(1,'Old tour',1795844713);
CREATE TABLE stocks (
    hash TEXT PRIMARY KEY,
    id   TEXT NOT NULL,
    data TEXT NOT NULL
) STRICT;
INSERT INTO "stocks" VALUES('ed87fe3692bd81960cf6573c552a1566163d1785470f346662b9014c923fa50c','plover','{
  "id": "plover",
  "notes": "Golden, with lifted blacks and dull blues.",
  "kind": "color-negative",
  "family": "birds",
  "iso": 200.0,
  "balance_K": 5500.0,
  "sens": [
    [
      [
        642.0,
        17.0,
        1.0
      ],
      [
        616.0,
        20.0,
        0.4
      ]
    ],
    [
      [
        546.0,
        19.0,
        1.0
      ],
      [
        520.0,
        20.0,
        0.35
      ]
    ],
    [
      [
        440.0,
        20.0,
        0.55
      ],
      [
        462.0,
        15.0,
        1.0
      ]
    ]
  ],
  "curve": {
    "R": {
      "dmin": 0.08,
      "gamma": 0.615,
      "toe": 0.2,
      "shoulder": 0.45,
      "dmax": 2.4
    },
    "G": {
      "dmin": 0.08,
      "gamma": 0.59,
      "toe": 0.23,
      "shoulder": 0.45,
      "dmax": 2.4
    },
    "B": {
      "dmin": 0.09,
      "gamma": 0.535,
      "toe": 0.2,
      "shoulder": 0.45,
      "dmax": 2.4
    }
  },
  "inhibition": [
    [
      0.0,
      0.041,
      0.391
    ],
    [
      -0.22,
      0.0,
      0.847
    ],
    [
      -0.284,
      1.375,
      0.0
    ]
  ],
  "inhibition_high": [
    [
      0.0,
      0.635,
      -0.5
    ],
    [
      1.5,
      0.0,
      0.527
    ],
    [
      0.379,
      0.099,
      0.0
    ]
  ],
  "dyes": "cn",
  "mask": 0.8,
  "cref": [
    1.3,
    1.3,
    1.1
  ],
  "base": [
    [
      400.0,
      60.0,
      0.1
    ]
  ],
  "base_flat": 0.08,
  "print": "lab-paper",
  "cc": [
    0.0,
    -1.0,
    -3.0
  ],
  "aim": 0.19,
  "dens": 0.0,
  "ev": 0.0,
  "q": 0.85,
  "halation": {
    "strength": [
      0.022,
      0.0066,
      0.0
    ],
    "boost": 12.0
  },
  "grain": {
    "granularity": 11.0,
    "diameter_um": 7.3,
    "roughness": 0.45,
    "blur_um": 3.0,
    "layer_ratio": [
      1.0,
      1.0,
      1.5
    ],
    "diameter_ratio": [
      1.0,
      1.0,
      1.4
    ],
    "zone_weights": [
      1.0,
      1.0,
      1.0
    ],
    "colour_share": 0.6
  },
  "gate_mm": [
    36.0,
    24.0
  ]
}');
CREATE TABLE strokes (
    id   INTEGER PRIMARY KEY,
    hash BLOB NOT NULL UNIQUE, -- of the data
    data TEXT NOT NULL
) STRICT;
INSERT INTO "strokes" VALUES(1,X'2D39CE66DADCBB25DE15C17ED06BB968',
  '{"size":0.04,"softness":0.5,"strength":1.0,"erase":false,"points":[[0.0,0.0],[0.00007,0.00011],[0.00'
  || '014,0.00022],[0.00021,0.00033],[0.00028,0.00044],[0.00035,0.00055],[0.00042,0.00066],[0.00049,0.0007'
  || '7],[0.00056,0.00088],[0.00063,0.00099],[0.0007,0.0011],[0.00077,0.00121],[0.00084,0.00132],[0.00091,'
  || '0.00143],[0.00098,0.00154],[0.00105,0.00165],[0.00112,0.00176],[0.00119,0.00187],[0.00126,0.00198],['
  || '0.00133,0.00209],[0.0014,0.0022],[0.00147,0.00231],[0.00154,0.00242],[0.00161,0.00253],[0.00168,0.00'
  || '264],[0.00175,0.00275],[0.00182,0.00286],[0.00189,0.00297],[0.00196,0.00308],[0.00203,0.00319],[0.00'
  || '21,0.0033],[0.00217,0.00341],[0.00224,0.00352],[0.00231,0.00363],[0.00238,0.00374],[0.00245,0.00385]'
  || ',[0.00252,0.00396],[0.00259,0.00407],[0.00266,0.00418],[0.00273,0.00429],[0.0028,0.0044],[0.00287,0.'
  || '00451],[0.00294,0.00462],[0.00301,0.00473],[0.00308,0.00484],[0.00315,0.00495],[0.00322,0.00506],[0.'
  || '00329,0.00517],[0.00336,0.00528],[0.00343,0.00539],[0.0035,0.0055],[0.00357,0.00561],[0.00364,0.0057'
  || '2],[0.00371,0.00583],[0.00378,0.00594],[0.00385,0.00605],[0.00392,0.00616],[0.00399,0.00627],[0.0040'
  || '6,0.00638],[0.00413,0.00649]]}');
INSERT INTO "strokes" VALUES(2,X'0C286D16855AC29F1B87689553087F56',
  '{"size":0.04,"softness":0.5,"strength":1.0,"erase":false,"points":[[0.00061,0.00037],[0.00068,0.0004'
  || '8],[0.00075,0.00059],[0.00082,0.0007],[0.00089,0.00081],[0.00096,0.00092],[0.00103,0.00103],[0.0011,'
  || '0.00114],[0.00117,0.00125],[0.00124,0.00136],[0.00131,0.00147],[0.00138,0.00158],[0.00145,0.00169],['
  || '0.00152,0.0018],[0.00159,0.00191],[0.00166,0.00202],[0.00173,0.00213],[0.0018,0.00224],[0.00187,0.00'
  || '235],[0.00194,0.00246],[0.00201,0.00257],[0.00208,0.00268],[0.00215,0.00279],[0.00222,0.0029],[0.002'
  || '29,0.00301],[0.00236,0.00312],[0.00243,0.00323],[0.0025,0.00334],[0.00257,0.00345],[0.00264,0.00356]'
  || ',[0.00271,0.00367],[0.00278,0.00378],[0.00285,0.00389],[0.00292,0.004],[0.00299,0.00411],[0.00306,0.'
  || '00422],[0.00313,0.00433],[0.0032,0.00444],[0.00327,0.00455],[0.00334,0.00466],[0.00341,0.00477],[0.0'
  || '0348,0.00488],[0.00355,0.00499],[0.00362,0.0051],[0.00369,0.00521],[0.00376,0.00532],[0.00383,0.0054'
  || '3],[0.0039,0.00554],[0.00397,0.00565],[0.00404,0.00576],[0.00411,0.00587],[0.00418,0.00598],[0.00425'
  || ',0.00609],[0.00432,0.0062],[0.00439,0.00631],[0.00446,0.00642],[0.00453,0.00653],[0.0046,0.00664],[0'
  || '.00467,0.00675],[0.00474,0.00686]]}');
INSERT INTO "strokes" VALUES(3,X'5B2796711582E493EB698B91EC326A6C',
  '{"size":0.04,"softness":0.5,"strength":1.0,"erase":false,"points":[[0.00122,0.00074],[0.00129,0.0008'
  || '5],[0.00136,0.00096],[0.00143,0.00107],[0.0015,0.00118],[0.00157,0.00129],[0.00164,0.0014],[0.00171,'
  || '0.00151],[0.00178,0.00162],[0.00185,0.00173],[0.00192,0.00184],[0.00199,0.00195],[0.00206,0.00206],['
  || '0.00213,0.00217],[0.0022,0.00228],[0.00227,0.00239],[0.00234,0.0025],[0.00241,0.00261],[0.00248,0.00'
  || '272],[0.00255,0.00283],[0.00262,0.00294],[0.00269,0.00305],[0.00276,0.00316],[0.00283,0.00327],[0.00'
  || '29,0.00338],[0.00297,0.00349],[0.00304,0.0036],[0.00311,0.00371],[0.00318,0.00382],[0.00325,0.00393]'
  || ',[0.00332,0.00404],[0.00339,0.00415],[0.00346,0.00426],[0.00353,0.00437],[0.0036,0.00448],[0.00367,0'
  || '.00459],[0.00374,0.0047],[0.00381,0.00481],[0.00388,0.00492],[0.00395,0.00503],[0.00402,0.00514],[0.'
  || '00409,0.00525],[0.00416,0.00536],[0.00423,0.00547],[0.0043,0.00558],[0.00437,0.00569],[0.00444,0.005'
  || '8],[0.00451,0.00591],[0.00458,0.00602],[0.00465,0.00613],[0.00472,0.00624],[0.00479,0.00635],[0.0048'
  || '6,0.00646],[0.00493,0.00657],[0.005,0.00668],[0.00507,0.00679],[0.00514,0.0069],[0.00521,0.00701],[0'
  || '.00528,0.00712],[0.00535,0.00723]]}');
CREATE INDEX frames_by_roll ON frames (roll, position);
INSERT INTO "sqlite_sequence" VALUES('rolls',1);
INSERT INTO "sqlite_sequence" VALUES('frames',2);
COMMIT;
PRAGMA user_version = 3;
