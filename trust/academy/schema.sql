-- The academy of the ferry service: who learns what there, with whom, and what came of it.
CREATE TABLE person (
  person_id INTEGER PRIMARY KEY, given_name TEXT NOT NULL, family_name TEXT NOT NULL, island TEXT NOT NULL,
  born_on DATE NOT NULL, employer TEXT);
CREATE TABLE room (
  room_id INTEGER PRIMARY KEY, label TEXT NOT NULL UNIQUE, building TEXT NOT NULL, seats INTEGER NOT NULL,
  has_simulator BOOLEAN NOT NULL);
CREATE TABLE course (
  code TEXT PRIMARY KEY, title TEXT NOT NULL, level TEXT NOT NULL, credits INTEGER NOT NULL, fee NUMERIC(8,2) NOT NULL,
  retired BOOLEAN NOT NULL DEFAULT 0);
CREATE TABLE course_requirement (
  course_code TEXT NOT NULL REFERENCES course (code), required_code TEXT NOT NULL REFERENCES course (code),
  PRIMARY KEY (course_code, required_code));
CREATE TABLE teacher (
  teacher_id INTEGER PRIMARY KEY, person_id INTEGER NOT NULL UNIQUE REFERENCES person (person_id),
  hired_on DATE NOT NULL, left_on DATE, hourly_rate NUMERIC(6,2) NOT NULL);
CREATE TABLE course_run (
  run_id INTEGER PRIMARY KEY, course_code TEXT NOT NULL REFERENCES course (code),
  room_id INTEGER REFERENCES room (room_id), starts_on DATE NOT NULL, ends_on DATE NOT NULL,
  places INTEGER NOT NULL, status TEXT NOT NULL CHECK (status IN ('planned', 'running', 'finished', 'called off')));
CREATE TABLE teaching (
  run_id INTEGER NOT NULL REFERENCES course_run (run_id), teacher_id INTEGER NOT NULL REFERENCES teacher (teacher_id),
  hours INTEGER NOT NULL, PRIMARY KEY (run_id, teacher_id));
CREATE TABLE enrolment (
  enrolment_id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES course_run (run_id),
  person_id INTEGER NOT NULL REFERENCES person (person_id), enrolled_at TIMESTAMP NOT NULL,
  status TEXT NOT NULL CHECK (status IN ('active', 'withdrawn', 'completed', 'failed')), discount_percent INTEGER,
  UNIQUE (run_id, person_id));
CREATE TABLE exam_result (
  enrolment_id INTEGER NOT NULL REFERENCES enrolment (enrolment_id), attempt INTEGER NOT NULL, taken_on DATE NOT NULL,
  points REAL NOT NULL, passed BOOLEAN NOT NULL, PRIMARY KEY (enrolment_id, attempt));
CREATE TABLE invoice (
  invoice_no TEXT PRIMARY KEY, enrolment_id INTEGER NOT NULL REFERENCES enrolment (enrolment_id),
  issued_on DATE NOT NULL, due_on DATE NOT NULL, paid_on DATE, amount NUMERIC(8,2) NOT NULL);
CREATE TABLE certificate (
  certificate_no TEXT PRIMARY KEY, person_id INTEGER NOT NULL REFERENCES person (person_id),
  course_code TEXT NOT NULL REFERENCES course (code), issued_on DATE NOT NULL, expires_on DATE);
CREATE TABLE attendance (
  run_id INTEGER NOT NULL REFERENCES course_run (run_id), person_id INTEGER NOT NULL REFERENCES person (person_id),
  day DATE NOT NULL, present BOOLEAN NOT NULL, PRIMARY KEY (run_id, person_id, day));
