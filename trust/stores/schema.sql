-- The stores of the ferry service: spare parts, where they lie, from whom they come, who took them.
CREATE TABLE supplier (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, island TEXT NOT NULL, rating INTEGER NOT NULL,
  blocked BOOLEAN NOT NULL DEFAULT 0, partner_since DATE NOT NULL);
CREATE TABLE depot (
  id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, harbour TEXT NOT NULL, capacity_m3 REAL NOT NULL);
CREATE TABLE part (
  id INTEGER PRIMARY KEY, part_no TEXT NOT NULL UNIQUE, name TEXT NOT NULL, category TEXT NOT NULL,
  list_price_cents INTEGER NOT NULL, weight_kg REAL, reorder_level INTEGER NOT NULL, discontinued BOOLEAN NOT NULL DEFAULT 0);
CREATE TABLE stock (
  part_id INTEGER NOT NULL REFERENCES part (id), depot_id INTEGER NOT NULL REFERENCES depot (id),
  quantity INTEGER NOT NULL, counted_on DATE NOT NULL, PRIMARY KEY (part_id, depot_id));
CREATE TABLE storekeeper (
  id INTEGER PRIMARY KEY, depot_id INTEGER NOT NULL REFERENCES depot (id), badge TEXT NOT NULL UNIQUE,
  deputy_of INTEGER REFERENCES storekeeper (id), started_on DATE NOT NULL, ended_on DATE);
CREATE TABLE purchase (
  id INTEGER PRIMARY KEY, supplier_id INTEGER NOT NULL REFERENCES supplier (id),
  depot_id INTEGER NOT NULL REFERENCES depot (id), ordered_on DATE NOT NULL, promised_on DATE NOT NULL,
  delivered_on DATE, state INTEGER NOT NULL, freight_cents INTEGER NOT NULL);
CREATE TABLE purchase_line (
  id INTEGER PRIMARY KEY, purchase_id INTEGER NOT NULL REFERENCES purchase (id),
  part_id INTEGER NOT NULL REFERENCES part (id), quantity INTEGER NOT NULL, unit_price_cents INTEGER NOT NULL);
CREATE TABLE withdrawal (
  id INTEGER PRIMARY KEY, part_id INTEGER NOT NULL REFERENCES part (id), depot_id INTEGER NOT NULL REFERENCES depot (id),
  storekeeper_id INTEGER REFERENCES storekeeper (id), ship TEXT NOT NULL, taken_at TIMESTAMP NOT NULL,
  quantity INTEGER NOT NULL, urgent BOOLEAN NOT NULL DEFAULT 0);
CREATE TABLE withdrawal_2024 (
  id INTEGER PRIMARY KEY, part_id INTEGER NOT NULL REFERENCES part (id), depot_id INTEGER NOT NULL REFERENCES depot (id),
  storekeeper_id INTEGER REFERENCES storekeeper (id), ship TEXT NOT NULL, taken_at TIMESTAMP NOT NULL,
  quantity INTEGER NOT NULL, urgent BOOLEAN NOT NULL DEFAULT 0);
