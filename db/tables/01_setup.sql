-- What is set up: items, places, partners, rules.

-- The steps at which a rule may ask for something.
CREATE DOMAIN rule_step AS text
	CONSTRAINT rule_step_check CHECK (VALUE IN ('receipt', 'customer return', 'production use', 'production output', 'job use', 'repack',
		'service part', 'move', 'transfer', 'shipment', 'supplier return', 'adjustment in', 'adjustment out', 'count'));
-- Each change of what is set up gets a version of its own, also one that is taken back: whoever has read by a version may
-- keep what was read by it, and never mistakes it for what another change made.
CREATE SEQUENCE catalogue_version;

CREATE TABLE firm (
	one boolean DEFAULT true PRIMARY KEY CHECK (one),
	zone text NOT NULL DEFAULT 'Europe/London' CHECK (length(zone) BETWEEN 1 AND 60),
	decimal_sign text NOT NULL DEFAULT '.' CHECK (decimal_sign IN ('.', ',')),
	-- Who is sent the head of the ledger each day.
	witness text CHECK (length(witness) BETWEEN 3 AND 254),
	-- Cubic centimetres that count as a kilogram, where the way of delivery says nothing else.
	weight_divisor integer NOT NULL DEFAULT 5000 CHECK (weight_divisor BETWEEN 3000 AND 6000),
	-- Digits of the firm's GS1 company prefix: a GTIN does not say where it ends, and a tag does.
	prefix_digits smallint NOT NULL DEFAULT 7 CHECK (prefix_digits BETWEEN 6 AND 12),
	-- What is taken first, and what is not offered: settings of the firm that a site or an item may have its own
	-- of, and what a customer asks of what it gets.
	preference text NOT NULL DEFAULT 'expires first' CHECK (preference IN ('expires first', 'first in', 'by number')),
	-- A difference above so much of what was expected, in per cent, is counted a second time by another person; null: never.
	count_limit numeric DEFAULT 10 CHECK (count_limit BETWEEN 0::numeric AND 1000::numeric),
	-- What customers agree to.
	terms text NOT NULL DEFAULT '' CHECK (length(terms) <= 20000),
	-- A row of an open sheet holds its number: others are not offered it. So many days after it was last changed it does so no more.
	hold_days smallint NOT NULL DEFAULT 14 CHECK (hold_days BETWEEN 1 AND 365),
	new_only boolean NOT NULL DEFAULT false
);
INSERT INTO firm DEFAULT VALUES;

-- One number for everything that is set up and that the checks ask: it grows with each change, so that
-- whoever has read some of it knows whether that still holds.
CREATE TABLE catalogue (
	one boolean DEFAULT true PRIMARY KEY CHECK (one),
	version bigint NOT NULL
);
INSERT INTO catalogue (version) VALUES (1);
SELECT setval('catalogue_version', 1);

-- Why stock is put in or taken out: the firm's own list. Each reason is for one act; what is scrapped goes
-- another way than what is missing.
CREATE TABLE reason (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 100),
	act text NOT NULL CHECK (act IN ('put in', 'take out', 'scrap', 'take back', 'send back', 'count')),
	closed_on date
);
INSERT INTO reason (name, act) VALUES
	('Found', 'put in'),
	('Was there before Earmark', 'put in'),
	('Missing', 'take out'),
	('Damaged', 'scrap'),
	('Past its life', 'scrap'),
	('Faulty', 'take back'),
	('Damaged on the way', 'take back'),
	('Wrong goods sent', 'take back'),
	('Not needed', 'take back'),
	('Faulty on arrival', 'send back'),
	('Wrong goods received', 'send back'),
	('More than was ordered', 'send back'),
	('Moved and not booked', 'count'),
	('Booked wrongly before', 'count'),
	('Cause not found', 'count');

-- What material is used for that makes no item: a customer's project, a department, own use.
CREATE TABLE job (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	kind text NOT NULL CHECK (kind IN ('project', 'department', 'own use')),
	partner_id bigint,
	closed_on date,
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	CONSTRAINT job_check CHECK (kind <> 'project' OR partner_id IS NOT NULL)
);

-- Items of one kind share its marking rule, unless they have one of their own.
CREATE TABLE item_kind (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[A-Za-z0-9._-]{1,30}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE item (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	unit text NOT NULL CHECK (length(unit) BETWEEN 1 AND 20),
	decimals smallint NOT NULL DEFAULT 0 CHECK (decimals BETWEEN 0 AND 6),
	tracking text NOT NULL CHECK (tracking IN ('none', 'lot', 'serial', 'lot and serial')),
	shelf_life text CHECK (shelf_life ~ '^P(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$' AND shelf_life <> 'P'),
	run_mode text NOT NULL DEFAULT 'pooled' CHECK (run_mode IN ('pooled', 'unit')),
	-- How much stuff one unit holds, in a measure shared by bulk and pack (a 30 mL bottle: 0.03 L).
	content_qty numeric CHECK (content_qty > 0::numeric),
	content_unit text,
	serials_unique_everywhere boolean NOT NULL DEFAULT false,
	created_at timestamptz NOT NULL DEFAULT now(),
	lot_pattern_id bigint,
	serial_pattern_id bigint,
	misfit text NOT NULL DEFAULT 'stop' CHECK (misfit IN ('stop', 'reason', 'note')),
	least_left text CHECK (least_left ~ '^P(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$' AND least_left <> 'P'),
	gtin text UNIQUE CHECK (gtin ~ '^\d{14}$'),
	kind_id bigint REFERENCES item_kind,
	own_rule boolean NOT NULL DEFAULT true,
	rule_since timestamptz NOT NULL DEFAULT now(),
	end_of_month boolean NOT NULL DEFAULT false,
	warranty text CHECK (warranty ~ '^P(\d+Y)?(\d+M)?(\d+W)?(\d+D)?$' AND warranty <> 'P'),
	drawn_at text NOT NULL DEFAULT 'sheet' CHECK (drawn_at IN ('sheet', 'release')),
	supplier_number text NOT NULL DEFAULT 'beside' CHECK (supplier_number IN ('beside', 'printed', 'ours')),
	-- What is made of it waits for a review before it is booked.
	review boolean NOT NULL DEFAULT false,
	-- Of what is repacked, how much may be lost without a reason, in per cent.
	loss_tolerance numeric NOT NULL DEFAULT 0 CHECK (loss_tolerance BETWEEN 0::numeric AND 100::numeric),
	net_weight numeric CHECK (net_weight >= 0::numeric),
	gross_weight numeric CHECK (gross_weight >= 0::numeric),
	length_cm numeric CHECK (length_cm > 0::numeric),
	width_cm numeric CHECK (width_cm > 0::numeric),
	height_cm numeric CHECK (height_cm > 0::numeric),
	volumetric_weight numeric CHECK (volumetric_weight >= 0::numeric),
	picture text,
	-- How the date of what is made comes about: its own shelf life, the first date of what went in, or the earlier of both.
	expiry_from text NOT NULL DEFAULT 'life' CHECK (expiry_from IN ('life', 'parts', 'earlier')),
	preference text CHECK (preference IN ('expires first', 'first in', 'by number')),
	one_lot boolean NOT NULL DEFAULT false,
	days_left integer CHECK (days_left BETWEEN 0 AND 36500),
	-- So many days before its expiry something is noticed early: by item, thirty where nothing is said.
	notice_days integer CHECK (notice_days BETWEEN 0 AND 36500),
	CONSTRAINT item_check CHECK ((content_qty IS NULL) = (content_unit IS NULL)),
	CONSTRAINT item_check1 CHECK (tracking NOT LIKE '%serial%' OR decimals = 0),
	CONSTRAINT item_check2 CHECK (gross_weight >= net_weight),
	CONSTRAINT rule_of_its_kind CHECK (own_rule OR kind_id IS NOT NULL)
);
CREATE INDEX item_by_name ON item (name COLLATE natural_order);
CREATE INDEX item_of_kind ON item (kind_id) WHERE kind_id IS NOT NULL;

CREATE TABLE part (
	item_id bigint NOT NULL REFERENCES item,
	part_item_id bigint NOT NULL REFERENCES item,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	PRIMARY KEY (item_id, part_item_id),
	CONSTRAINT part_check CHECK (item_id <> part_item_id)
);

-- What comes out of a batch beside what it is made for: off-cuts, by-products; so much of each for one of the item.
CREATE TABLE byproduct (
	item_id bigint NOT NULL REFERENCES item,
	out_item_id bigint NOT NULL REFERENCES item,
	qty numeric NOT NULL CHECK (qty > 0::numeric),
	PRIMARY KEY (item_id, out_item_id),
	CONSTRAINT byproduct_check CHECK (item_id <> out_item_id)
);

CREATE TABLE marking_rule (
	item_id bigint REFERENCES item,
	step text NOT NULL CHECK (step::rule_step IS NOT NULL),
	lot text NOT NULL CHECK (lot IN ('not asked', 'asked', 'required')),
	serial text NOT NULL CHECK (serial IN ('not asked', 'asked', 'required')),
	since timestamptz NOT NULL DEFAULT now(),
	kind_id bigint REFERENCES item_kind,
	expiry text NOT NULL DEFAULT 'not asked' CHECK (expiry IN ('not asked', 'asked', 'required')),
	-- What is enough at a step.
	evidence text NOT NULL DEFAULT 'any' CHECK (evidence IN ('any', 'entered', 'scanned')),
	CONSTRAINT of_an_item_or_a_kind CHECK (num_nonnulls(item_id, kind_id) = 1)
);
CREATE UNIQUE INDEX marking_rule_item ON marking_rule (item_id, step) WHERE item_id IS NOT NULL;
CREATE UNIQUE INDEX marking_rule_kind ON marking_rule (kind_id, step) WHERE kind_id IS NOT NULL;

-- What the firm wants to know of a lot or serial besides its numbers and dates.
CREATE TABLE fact (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[A-Za-z0-9._-]{1,30}$'),
	name text NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 60),
	kind text NOT NULL CHECK (kind IN ('text', 'number', 'date', 'choice', 'file')),
	unit text CHECK (length(unit) BETWEEN 1 AND 20),
	decimals smallint NOT NULL DEFAULT 0 CHECK (decimals BETWEEN 0 AND 6),
	low numeric,
	high numeric,
	choices text[] NOT NULL DEFAULT '{}'::text[],
	-- What a value outside its limits means.
	outside text NOT NULL DEFAULT 'reason' CHECK (outside IN ('stop', 'reason', 'note')),
	-- Kept with the lot, where there is one, or with each piece.
	per text NOT NULL DEFAULT 'lot' CHECK (per IN ('lot', 'piece')),
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	CONSTRAINT fact_check CHECK (kind = 'number' OR unit IS NULL AND low IS NULL AND high IS NULL),
	CONSTRAINT fact_check1 CHECK (low <= high),
	CONSTRAINT fact_check2 CHECK ((kind = 'choice') = (cardinality(choices) > 0))
);

CREATE TABLE fact_rule (
	item_id bigint REFERENCES item,
	kind_id bigint REFERENCES item_kind,
	fact_id bigint NOT NULL REFERENCES fact,
	step text NOT NULL CHECK (step::rule_step IS NOT NULL),
	how text NOT NULL CHECK (how IN ('asked', 'required')),
	CONSTRAINT fact_rule_check CHECK (num_nonnulls(item_id, kind_id) = 1)
);
CREATE UNIQUE INDEX fact_rule_item ON fact_rule (item_id, step, fact_id) WHERE item_id IS NOT NULL;
CREATE UNIQUE INDEX fact_rule_kind ON fact_rule (kind_id, step, fact_id) WHERE kind_id IS NOT NULL;

CREATE TABLE partner (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	kind text NOT NULL CHECK (kind IN ('supplier', 'customer', 'both')),
	days_left integer CHECK (days_left BETWEEN 0 AND 36500),
	never_older boolean NOT NULL DEFAULT false,
	one_lot boolean NOT NULL DEFAULT false,
	-- What came back from a customer is no new one: it is offered last, and some customers get none of it.
	new_only boolean
);

CREATE TABLE place (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^(@[a-z]+|[A-Za-z0-9._-]{1,20}(/[A-Za-z0-9._-]{1,20})?)$'),
	name text NOT NULL,
	site_id bigint REFERENCES place,
	virtual boolean NOT NULL DEFAULT false,
	-- Where goods arrive, to be put away from.
	dock boolean NOT NULL DEFAULT false,
	-- A site may lie in another zone than the firm.
	zone text CHECK (length(zone) BETWEEN 1 AND 60),
	preference text CHECK (preference IN ('expires first', 'first in', 'by number')),
	bins_first boolean NOT NULL DEFAULT false,
	-- What goes from one site to another is in transit until it arrives: it stands at a place of its own, which is no site to work at.
	transit boolean NOT NULL DEFAULT false,
	area text CHECK (length(area) BETWEEN 1 AND 60),
	-- Where picked goods wait until they are shipped. A site that has such a place picks in an act of its own.
	staging boolean NOT NULL DEFAULT false,
	CONSTRAINT place_check CHECK (virtual = (code LIKE '@%')),
	CONSTRAINT place_check1 CHECK (site_id IS NULL OR preference IS NULL AND NOT bins_first),
	CONSTRAINT place_check2 CHECK (site_id IS NULL OR area IS NULL AND NOT transit),
	CONSTRAINT place_check3 CHECK (NOT (virtual AND transit)),
	CONSTRAINT place_check4 CHECK (NOT staging OR site_id IS NOT NULL AND NOT dock)
);
CREATE INDEX place_by_code ON place (code COLLATE natural_order);
CREATE INDEX place_staging ON place (id) WHERE staging;
CREATE UNIQUE INDEX place_transit ON place (transit) WHERE transit;
INSERT INTO place (code, name, virtual, transit) VALUES
	('@supplier', 'Supplier', true, false),
	('@customer', 'Customer', true, false),
	('@process', 'In process', true, false),
	('@scrap', 'Scrapped', true, false),
	('@adjust', 'Adjusted', true, false),
	('@job', 'Job', true, false),
	('IN-TRANSIT', 'In transit', false, true);

-- How strongly the firm takes what a check finds, where it is not as delivered.
CREATE TABLE check_policy (
	code text PRIMARY KEY,
	strength text NOT NULL CHECK (strength IN ('stop', 'reason', 'note')),
	changed_by text NOT NULL,
	changed_at timestamptz NOT NULL DEFAULT now()
);

-- A way of delivery: what it counts as a kilogram, and what it asks for one.
CREATE TABLE delivery_way (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (code ~ '^[^[:space:]/?#%]{1,20}$'),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 100),
	divisor integer CHECK (divisor BETWEEN 3000 AND 6000),
	rate numeric CHECK (rate >= 0::numeric),
	minimum numeric CHECK (minimum >= 0::numeric),
	currency text NOT NULL DEFAULT 'EUR' CHECK (currency ~ '^[A-Z]{3}$'),
	closed_on date
);

-- Every change of a rule, pattern, policy, item, kind, fact, partner, place, job, person, token or of the
-- firm itself: who, when, from what to what. Appended to, never changed.
CREATE TABLE setup_change (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	subject text NOT NULL CHECK (subject IN ('item', 'kind', 'fact', 'pattern', 'policy', 'partner', 'place', 'job', 'station', 'way',
		'reason', 'person', 'token', 'firm')),
	code text NOT NULL,
	field text NOT NULL,
	old text,
	new text,
	changed_by text NOT NULL CHECK (changed_by <> ''),
	changed_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX setup_change_subject ON setup_change (subject, code, id DESC);
