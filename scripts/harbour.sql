-- The demo's store of readings, demo/tidewatch/harbour.sqlite, as it is made:
--   rm -f demo/tidewatch/harbour.sqlite && sqlite3 demo/tidewatch/harbour.sqlite < scripts/harbour.sql
-- It differs from readings_schema.bathy in three ways: levels are `real`, call signs are not unique, and who signed a calibration
-- is not declared as a reference.
PRAGMA page_size = 1024;
CREATE TABLE station (
  id bigint PRIMARY KEY NOT NULL,
  name text NOT NULL UNIQUE,
  latitude decimal(8,5) NOT NULL,
  longitude decimal(8,5) NOT NULL
);
CREATE TABLE sensor (
  id bigint PRIMARY KEY NOT NULL,
  station_id bigint NOT NULL REFERENCES station (id),
  quantity text NOT NULL,
  offset_mm decimal(6,2) NOT NULL
);
CREATE TABLE reading (
  sensor_id bigint NOT NULL REFERENCES sensor (id),
  taken_at timestamptz NOT NULL,
  level real NOT NULL,
  quality smallint NOT NULL,
  PRIMARY KEY (sensor_id, taken_at)
);
CREATE TABLE keeper (
  id bigint PRIMARY KEY NOT NULL,
  name text NOT NULL,
  call_sign text NOT NULL
);
CREATE TABLE calibration (
  id bigint PRIMARY KEY NOT NULL,
  sensor_id bigint NOT NULL REFERENCES sensor (id),
  drift_mm decimal(5,2) NOT NULL,
  signed_by bigint
);
CREATE TABLE warning (
  id bigint PRIMARY KEY NOT NULL,
  station_id bigint NOT NULL REFERENCES station (id),
  keeper_id bigint REFERENCES keeper (id),
  raised_at timestamptz NOT NULL,
  severity text NOT NULL
);
INSERT INTO station VALUES (1, 'Pier head', 54.18012, 7.88931), (2, 'Outer buoy', 54.20455, 7.81240), (3, 'Lock', 54.17100, 7.90215);
INSERT INTO sensor VALUES (1, 1, 'level', 1.25), (2, 1, 'swell', 0), (3, 2, 'level', -0.5), (4, 3, 'level', 0);
INSERT INTO keeper VALUES (1, 'Ada Thorne', 'HERON'), (2, 'Ben Quay', 'TERN');
INSERT INTO calibration VALUES (1, 1, 0.4, 1), (2, 3, 1.1, 2);
INSERT INTO warning VALUES (1, 1, 1, '2026-11-02T03:10:00Z', 'surge'), (2, 3, NULL, '2026-11-02T03:12:00Z', 'watch');
WITH RECURSIVE hour (n) AS (SELECT 0 UNION ALL SELECT n + 1 FROM hour WHERE n < 23)
INSERT INTO reading SELECT sensor.id, printf('2026-11-02T%02d:00:00Z', n), round(2.1 + sin(n * 0.52 + sensor.id) * 1.6, 3), 1
  FROM hour, sensor;
