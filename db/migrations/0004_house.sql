-- The firm's time, what is in force for a number, jobs, the steps of a marking rule by name, numbers that look alike,
-- and a history of everything that is set up.

-- The time that "today" means ------------------------------------------------------------------

CREATE TABLE firm (
	one boolean PRIMARY KEY DEFAULT true CHECK (one),
	zone text NOT NULL DEFAULT 'Europe/London' CHECK (length(zone) BETWEEN 1 AND 60)
);
INSERT INTO firm DEFAULT VALUES;
-- A moment and its day as lists show them: in the firm's time.
CREATE FUNCTION shown_time(at timestamptz) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT to_char(at AT TIME ZONE (SELECT zone FROM firm), 'YYYY-MM-DD HH24:MI')
$$;
CREATE FUNCTION shown_day(at timestamptz) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT to_char(at AT TIME ZONE (SELECT zone FROM firm), 'YYYY-MM-DD')
$$;
-- A site may lie in another zone than the firm.
ALTER TABLE place ADD zone text CHECK (length(zone) BETWEEN 1 AND 60);

-- The steps of a marking rule ------------------------------------------------------------------

ALTER TABLE marking_rule DROP CONSTRAINT marking_rule_step_check;
ALTER TABLE fact_rule DROP CONSTRAINT fact_rule_step_check;
-- What was asked at an adjustment is asked in both directions; using for a job, repacking and service asked what
-- production use asks.
INSERT INTO marking_rule (item_id, kind_id, step, lot, serial, expiry, since)
	SELECT r.item_id, r.kind_id, n.step, r.lot, r.serial, r.expiry, r.since FROM marking_rule r
	JOIN (VALUES ('adjustment', 'adjustment in'), ('adjustment', 'adjustment out'), ('production use', 'job use'),
		('production use', 'repack'), ('production use', 'service part')) n(was, step) ON n.was = r.step;
INSERT INTO fact_rule (item_id, kind_id, fact_id, step, how)
	SELECT r.item_id, r.kind_id, r.fact_id, n.step, r.how FROM fact_rule r
	JOIN (VALUES ('adjustment', 'adjustment in'), ('adjustment', 'adjustment out'), ('production use', 'job use'),
		('production use', 'repack'), ('production use', 'service part')) n(was, step) ON n.was = r.step;
DELETE FROM marking_rule WHERE step = 'adjustment';
DELETE FROM fact_rule WHERE step = 'adjustment';
CREATE DOMAIN rule_step AS text CHECK (VALUE IN ('receipt', 'customer return', 'production use', 'production output', 'job use',
	'repack', 'service part', 'move', 'transfer', 'shipment', 'supplier return', 'adjustment in', 'adjustment out', 'count'));
ALTER TABLE marking_rule ADD CONSTRAINT marking_rule_step_check CHECK (step::rule_step IS NOT NULL);
ALTER TABLE fact_rule ADD CONSTRAINT fact_rule_step_check CHECK (step::rule_step IS NOT NULL);

-- The step that a movement is: the same table as in the code, for the check of a whole ledger.
CREATE FUNCTION step_of(kind text, from_code text, to_code text, from_site bigint, to_site bigint, role text) RETURNS text
	LANGUAGE sql IMMUTABLE AS $$
	SELECT CASE
		WHEN role IS NOT NULL THEN CASE WHEN kind = 'repack' THEN 'repack' WHEN kind = 'service' THEN 'service part'
			WHEN role = 'make' THEN 'production output' ELSE 'production use' END
		WHEN from_code = '@supplier' THEN 'receipt' WHEN from_code = '@customer' THEN 'customer return'
		WHEN to_code = '@customer' THEN 'shipment' WHEN to_code = '@supplier' THEN 'supplier return' WHEN to_code = '@job' THEN 'job use'
		WHEN kind = 'count' THEN 'count' WHEN from_code LIKE '@%' THEN 'adjustment in' WHEN to_code LIKE '@%' THEN 'adjustment out'
		WHEN from_site = to_site THEN 'move' ELSE 'transfer' END
$$;

-- What is in force for a number -----------------------------------------------------------------

CREATE FUNCTION worse_status(own text, lots text) RETURNS text LANGUAGE sql IMMUTABLE AS $$
	SELECT CASE WHEN lots IS NOT NULL AND array_position(ARRAY['released', 'quarantine', 'held', 'rejected'], lots)
		> array_position(ARRAY['released', 'quarantine', 'held', 'rejected'], own) THEN lots ELSE own END
$$;

-- Numbers that look alike -----------------------------------------------------------------------

-- What a number looks like: letters of other alphabets as the Latin ones they look like (Unicode Technical Standard 39,
-- confusables.txt: single signs that look like one sign of ASCII), full width as half (NFKC), capitals as small, 0 as o,
-- 1 and I as l. Two numbers of one item that look the same are asked about before the second is taken.
CREATE FUNCTION looks(number text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
	SELECT CASE WHEN number ~ '^[ -~]*$' THEN translate(lower(number), '01i|', 'olll')
		ELSE translate(translate(lower(normalize(number, NFKC)), U&'\07fa\2010\2012\2013\06d4\2043\02d7\2212\2796\2cbb\060d\066b\201a\a4f9\0589\0703\0704\16ec\1803\1809\205a\05c3\02f8\a789\2236\02d0\a4fd\01c3\2d51\0294\0242\097d\ab7e\a6eb\0701\0702\a60e\0660\06f0\a4f8\2768\2772\3014\fd3e\2769\2773\3015\fd3f\2774\2775\204e\066d\2217\1735\2041\2215\2044\2571\27cb\29f8\31d3\3033\2cc7\30ce\4e3f\2216\27cd\29f5\29f9\31d4\4e36\a778\02c4\02c6\16ed\2795\2039\276e\02c2\1438\16b2\1400\2e40\30a0\a4ff\203a\276f\02c3\1433\2053\223c\a75b\01a8\03e9\a645\14bf\a6ef\025c\021d\0292\a76b\2ccd\0437\04e1\ab9e\01bd\2cd3\0431\abbe\09ea\0a6a\0223\0a67\0b68\09ed\0d6d\a76f\2ccb\237a\0251\03b1\0430\ab7a\15c5\a4ee\0185\044c\ab9f\1472\15af\a7b5\03b2\0432\13fc\15f7\a4d0\1d04\2ca5\0441\abaf\a4da\0501\abb7\146f\a4d2\ab70\15de\15ea\a4d3\212e\ab32\0435\04bd\22ff\03b5\2d39\ab7c\a4f0\ab35\a799\1e9d\0584\03dd\15b4\a4dd\0261\1d83\018d\0581\050d\ab90\13fb\a4d6\04bb\0570\ab92\03b7\2c8f\043d\ab8b\157c\a4e7\2373\0131\026a\0269\03b9\0456\a647\04cf\ab75\03f3\0458\029d\ab7b\148d\a4d9\03ba\2c95\043a\abb6\16d5\a4d7\05c0\2223\23fd\0661\06f1\01c0\2c93\05d5\05df\0627\07ca\2d4f\16c1\a4f2\2cd1\abae\14aa\a4e1\03bc\03fb\2c99\043c\ab87\15f0\16d6\a4df\0578\057c\03bd\2c9b\a4e0\0966\0a66\0ae6\0be6\0c66\0ce6\0d66\0e50\0ed0\1040\0665\06f5\1d0f\1d11\ab3d\03bf\03c3\2c9f\043e\10ff\0585\05e1\0647\06be\06c1\06d5\0d20\101d\07c0\09e6\0b66\3007\2d54\12d0\0b20\a4f3\2374\03c1\2ca3\0440\abb2\146d\a4d1\051b\0563\0566\2d55\ab47\ab48\1d26\2c85\0433\ab81\0280\ab71\aba2\1587\a4e3\a731\0455\abaa\057f\aba5\a4e2\22a4\27d9\03c4\2ca7\0442\ab72\a4d4\a79f\1d1c\ab4e\ab52\028b\03c5\057d\222a\22c3\1200\144c\a4f4\2228\22c1\1d20\0475\05d8\aba9\0667\06f7\2d38\142f\a6df\a4e6\026f\1d21\0461\051d\0561\ab83\aba4\a4ea\166e\00d7\292b\292c\2a2f\0445\1541\157d\166d\2573\ab53\03c7\2cad\2d5d\16b7\a4eb\0263\1d8c\028f\1eff\ab5a\03b3\0443\04af\10e7\2ca9\ab79\ab8d\a4ec\1d22\ab93\03b6\a4dc\2cba\0241\13ae\2cc6\a75a\01a7\03e8\a644\a7ab\021c\01b7\a76a\2ccc\0417\04e0\13ce\01bc\2cd2\13ee\0222\a76e\2cca\0391\0410\13aa\0184\042c\13cf\a7b4\0392\0412\13f4\2ca4\0421\13df\13e7\13a0\0395\0415\13ac\a798\03dc\050c\13c0\13f3\13c2\0397\2c8e\041d\13bb\13a5\a7b2\037f\0408\13ab\039a\2c94\041a\13e6\0196\0399\2c92\0406\04c0\2cd0\13de\039c\03fa\2c98\041c\13b7\039d\2c9a\039f\2c9e\041e\0555\03a1\2ca2\0420\13e2\01a6\13a1\13d2\0405\054f\13d5\13da\03a4\2ca6\0422\13a2\054d\0474\13d9\051c\13b3\13d4\a7b3\03a7\2cac\0425\03a5\2ca8\0423\04ae\13a9\13bd\0396\13c3',
			'_---------,,,,:::::::::::::!!?????......(((()))){}***////////////\\\\\\&^^++<<<<<====>>>>~~222222333333345666888999999aaaaaaabbbbbbbbbbbcccccddddddddeeeeeeeeefffffffgggggggghhhhhhhhhllllllllljjjjjjkkkkkkllllllllllllllllllmmmmmmmmnnnnnoooooooooooooooooooooooooooooooooooopppppppqqqqrrrrrrrrrrrsssssstttttttuuuuuuuuuuuuvvvvvvvvvvvvwwwwwwwwxxxxxxxxxxxxxxxxyyyyyyyyyyyyyzzzz-??/222233333334566899aaabbbbbbbcccddeeeffggghhhhhljjjjkkkklllllllmmmmmnnoooopppprrrssssttttuvvwwwxxxxyyyyyyzz'), '01i|', 'olll') END
$$;
ALTER TABLE mark ADD looks text GENERATED ALWAYS AS (looks(coalesce(serial_no, lot_no))) STORED;
DROP INDEX mark_serial_no;
CREATE INDEX mark_looks ON mark (looks) WHERE kind <> 'unmarked';
CREATE OR REPLACE FUNCTION refuse_shared_serials() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE hit record;
BEGIN
	IF NOT EXISTS (SELECT 1 FROM item WHERE serials_unique_everywhere) THEN RETURN NULL; END IF;
	SELECT n.serial_no, i.code INTO hit FROM inserted n JOIN item ni ON ni.id = n.item_id
		JOIN mark m ON m.looks = n.looks AND m.serial_no = n.serial_no AND m.id <> n.id AND m.kind = 'serial' JOIN item i ON i.id = m.item_id
		WHERE n.kind = 'serial' AND (ni.serials_unique_everywhere OR i.serials_unique_everywhere) LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM005', MESSAGE = 'serial used by another item',
			DETAIL = json_build_object('serial', hit.serial_no, 'item', hit.code)::text;
	END IF;
	RETURN NULL;
END $$;

-- A number with all that is in force for it: its own or its lot's, whichever is worse. Whoever asks what a number is
-- asks this view.
CREATE VIEW mark_now AS
	SELECT k.id, k.item_id, k.kind, k.lot_no, k.serial_no, k.number, k.parent_id, k.supplier_lot, k.supplier_serial, k.made_on, k.event_id,
		k.facts, l.facts AS lot_facts, coalesce(l.facts, '{}') || k.facts AS facts_in_force,
		l.lot_no AS of_lot, k.status AS own_status, worse_status(k.status, l.status) AS status,
		k.expires_on AS own_expires_on, coalesce(k.expires_on, l.expires_on) AS expires_on
	FROM mark k LEFT JOIN mark l ON l.id = k.parent_id;

-- Queries by item walk that item's numbers, and by place what lies there.
CREATE INDEX mark_item ON mark (item_id, id);

-- Jobs ------------------------------------------------------------------------------------------

-- What material is used for that makes no item: a customer's project, a department, own use.
CREATE TABLE job (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	code text NOT NULL UNIQUE CHECK (length(code) BETWEEN 1 AND 60),
	name text NOT NULL CHECK (length(name) BETWEEN 1 AND 200),
	kind text NOT NULL CHECK (kind IN ('project', 'department', 'own use')),
	partner_id bigint REFERENCES partner,
	closed_on date,
	created_by text NOT NULL,
	created_at timestamptz NOT NULL DEFAULT now(),
	CHECK (kind <> 'project' OR partner_id IS NOT NULL)
);
INSERT INTO place (code, name, virtual) VALUES ('@job', 'Job', true);
ALTER TABLE orders ADD job_id bigint REFERENCES job,
	DROP CONSTRAINT orders_kind_check,
	ADD CONSTRAINT orders_kind_check CHECK (kind IN ('purchase', 'production', 'sale', 'issue', 'transfer', 'return'));
ALTER TABLE event ADD job_id bigint REFERENCES job,
	-- SHA-256 of what was asked under this key: the same key with something else is another request.
	ADD request text CHECK (request ~ '^[0-9a-f]{64}$'),
	DROP CONSTRAINT event_kind_check,
	ADD CONSTRAINT event_kind_check CHECK (kind IN ('receipt', 'move', 'transfer', 'use', 'output', 'issue', 'repack', 'service', 'shipment',
		'return', 'supplier return', 'scrap', 'adjust', 'count', 'mark', 'correct', 'hold', 'quarantine', 'release', 'reject', 'undo'));
CREATE INDEX event_job ON event (job_id) WHERE job_id IS NOT NULL;

-- What an event's hash covers, now with the job and the request. Events without them keep the text, and so the hash,
-- that they were sealed with.
ALTER FUNCTION event_text(event) RENAME TO event_text_of_facts;
CREATE FUNCTION event_text(e event) RETURNS text LANGUAGE sql STABLE AS $$
	SELECT event_text_of_facts(e) || CASE WHEN e.job_id IS NULL AND e.request IS NULL THEN '' ELSE json_build_array(e.job_id, e.request)::text END
$$;

-- What is written at the end of an event: as before, and quarantine changes what is recorded too.
CREATE OR REPLACE FUNCTION seal_event() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE head ledger_head; hit record;
BEGIN
	SELECT * INTO head FROM ledger_head FOR UPDATE;
	IF NEW.id <> head.last_event + 1 THEN
		RAISE EXCEPTION 'event % does not follow event %', NEW.id, head.last_event;
	END IF;
	IF EXISTS (SELECT 1 FROM movement WHERE event_id = NEW.id AND at <> NEW.at) THEN
		RAISE EXCEPTION 'a movement of event % has another time than its event', NEW.id;
	END IF;
	IF NEW.kind NOT IN ('correct', 'hold', 'quarantine', 'release', 'reject')
		AND NOT EXISTS (SELECT 1 FROM movement WHERE event_id = NEW.id)
		AND NOT EXISTS (SELECT 1 FROM run_closing WHERE event_id = NEW.id) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'an event without movements';
	END IF;

	-- I11: at no time since this event may less than nothing have stood at a real place.
	SELECT t.mark_id, t.place_id, t.at, t.qty INTO hit FROM (
		SELECT w.*, sum(w.signed) OVER (PARTITION BY w.mark_id, w.place_id ORDER BY w.at, w.id) AS level FROM (
			SELECT m.id, m.at, m.mark_id, m.qty, s.place_id, s.signed
			FROM (SELECT DISTINCT d.mark_id, x.place_id
				FROM movement d CROSS JOIN LATERAL (VALUES (d.from_place), (d.to_place)) x(place_id)
				JOIN place p ON p.id = x.place_id AND NOT p.virtual
				WHERE d.event_id = NEW.id
					AND (NEW.kind = 'undo' OR EXISTS (SELECT 1 FROM movement l WHERE l.mark_id = d.mark_id AND l.at > NEW.at))) touched
			JOIN effective_movement m ON m.mark_id = touched.mark_id
			CROSS JOIN LATERAL (VALUES (m.to_place, m.qty), (m.from_place, -m.qty)) s(place_id, signed)
			WHERE s.place_id = touched.place_id) w) t
	WHERE t.level < 0 ORDER BY t.at, t.id LIMIT 1;
	IF FOUND THEN
		RAISE EXCEPTION USING ERRCODE = 'EM011', MESSAGE = 'used before it was there',
			DETAIL = json_build_object('mark', hit.mark_id::text, 'place', hit.place_id::text, 'at', hit.at, 'qty', hit.qty,
				'arrived', (SELECT min(m.at) FROM effective_movement m WHERE m.mark_id = hit.mark_id AND m.to_place = hit.place_id))::text;
	END IF;

	-- I10: an undo is the exact mirror of the whole event, once.
	IF NEW.kind = 'undo' THEN
		IF EXISTS (SELECT 1 FROM event WHERE id = NEW.undoes AND kind = 'undo') THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo cannot be undone';
		END IF;
		IF EXISTS (
			SELECT 1 FROM (SELECT * FROM movement WHERE event_id = NEW.undoes) o
			FULL JOIN (SELECT * FROM movement WHERE event_id = NEW.id) m ON m.mirrors = o.id
			WHERE o.id IS NULL OR m.id IS NULL OR m.mark_id <> o.mark_id OR m.qty <> o.qty OR m.from_place <> o.to_place OR m.to_place <> o.from_place
				OR m.run_id IS DISTINCT FROM o.run_id OR m.role IS DISTINCT FROM o.role) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'an undo must mirror its event exactly';
		END IF;
	ELSIF EXISTS (SELECT 1 FROM movement WHERE event_id = NEW.id AND mirrors IS NOT NULL) THEN
		RAISE EXCEPTION USING ERRCODE = 'EM010', MESSAGE = 'only an undo mirrors movements';
	ELSE
		-- What goes through @process goes through a run, in the direction of its role.
		IF EXISTS (SELECT 1 FROM movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place
			WHERE m.event_id = NEW.id AND NOT CASE m.role
				WHEN 'use' THEN t.code = '@process' AND f.code <> '@process'
				WHEN 'make' THEN f.code = '@process' WHEN 'detach' THEN f.code = '@process'
				ELSE f.code <> '@process' AND t.code <> '@process' END) THEN
			RAISE EXCEPTION USING ERRCODE = 'EM008', MESSAGE = 'a movement and its role disagree';
		END IF;
	END IF;

	-- I7: repacking conserves content. Where every item of the run says how much it holds, in = out; loss is
	-- its own movement to @scrap.
	IF NEW.kind = 'repack' THEN
		SELECT r.code, sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE 0 END) AS went_in,
			sum(CASE m.role WHEN 'make' THEN m.qty * i.content_qty ELSE 0 END) AS came_out, min(i.content_unit) AS unit INTO hit
		FROM movement m JOIN run r ON r.id = m.run_id JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		WHERE m.event_id = NEW.id GROUP BY r.code
		HAVING bool_and(i.content_qty IS NOT NULL) AND count(DISTINCT i.content_unit) = 1
			AND sum(CASE m.role WHEN 'use' THEN m.qty * i.content_qty ELSE -m.qty * i.content_qty END) <> 0 LIMIT 1;
		IF FOUND THEN
			RAISE EXCEPTION USING ERRCODE = 'EM007', MESSAGE = 'repacking must conserve content',
				DETAIL = json_build_object('run', hit.code, 'in', trim_scale(hit.went_in)::text, 'out', trim_scale(hit.came_out)::text, 'unit', hit.unit)::text;
		END IF;
	END IF;

	NEW.prev_hash := head.hash;
	NEW.hash := event_hash(NEW);
	UPDATE ledger_head SET last_event = NEW.id, hash = NEW.hash;
	RETURN NEW;
END $$;

-- The history of what is set up ------------------------------------------------------------------

-- Every change of a rule, pattern, policy, item, kind, fact, partner, place, job, person, token or of the firm itself:
-- who, when, from what to what. Appended to, never changed.
CREATE TABLE setup_change (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	subject text NOT NULL CHECK (subject IN ('item', 'kind', 'fact', 'pattern', 'policy', 'partner', 'place', 'job', 'person', 'token', 'firm')),
	code text NOT NULL,
	field text NOT NULL,
	old text,
	new text,
	changed_by text NOT NULL CHECK (changed_by <> ''),
	changed_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX setup_change_subject ON setup_change (subject, code, id DESC);
CREATE TRIGGER refuse_change BEFORE UPDATE OR DELETE ON setup_change FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON setup_change FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();

GRANT SELECT ON firm, mark_now, job, setup_change TO earmark_app;
GRANT UPDATE (zone) ON firm TO earmark_app;
GRANT INSERT, UPDATE ON job TO earmark_app;
GRANT INSERT ON setup_change TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
