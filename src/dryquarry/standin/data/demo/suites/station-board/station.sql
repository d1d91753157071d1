CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT, seats INTEGER);
CREATE TABLE trips (id INTEGER PRIMARY KEY, boat_id INTEGER REFERENCES boats (id), day TEXT, leaves TEXT, sold INTEGER);
INSERT INTO boats VALUES (1, 'Tern', 40), (2, 'Eider', 12), (3, 'Gull', 60);
INSERT INTO trips VALUES
  (1, 1, 'Saturday', '08:10', 31),
  (2, 2, 'Saturday', '12:05', NULL),
  (3, 3, 'Saturday', '09:40', 60),
  (4, 1, 'Sunday', '10:00', 12),
  (5, 2, 'Sunday', '11:30', 4),
  (6, 1, 'Sunday', '15:00', NULL),
  (7, 3, 'Monday', '09:40', 8);
