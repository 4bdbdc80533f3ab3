-- What guards the tables: which change by appending alone, which keep their versions, what each row sets off, and what the
-- application may do. A later table calls seal_table() in its migration.

-- Each version of a row waits to be sealed, also those that are recorded next.
CREATE TRIGGER wait_for_seal AFTER INSERT ON row_version FOR EACH ROW EXECUTE FUNCTION wait_for_seal();

-- Covered by entries of the ledger: each version of a row is one.
SELECT seal_table('firm', '{one}',
	'SELECT, UPDATE (zone, decimal_sign, witness, weight_divisor, prefix_digits, preference, count_limit, terms, hold_days, new_only)');
SELECT seal_table('reason', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('job', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('item_kind', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('item', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('part', '{item_id, part_item_id}', 'SELECT, INSERT, UPDATE, DELETE');
SELECT seal_table('byproduct', '{item_id, out_item_id}', 'SELECT, INSERT, DELETE');
SELECT seal_table('marking_rule', '{item_id, kind_id, step}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('fact', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('fact_rule', '{item_id, kind_id, step, fact_id}', 'SELECT, INSERT, UPDATE, DELETE');
SELECT seal_table('partner', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('place', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('check_policy', '{code}', 'SELECT, INSERT, UPDATE, DELETE');
SELECT seal_table('delivery_way', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('setup_change', '{id}', 'SELECT, INSERT', append_only => true);
SELECT seal_table('person', '{id}', 'SELECT, INSERT, UPDATE', hashed => '{password_hash}');
SELECT seal_table('api_token', '{id}', 'SELECT, INSERT, UPDATE', without => '{last_used_at}', hashed => '{token_hash}');
SELECT seal_table('orders', '{id}', 'SELECT, INSERT, UPDATE, DELETE');
SELECT seal_table('order_line', '{id}', 'SELECT, INSERT, UPDATE, DELETE');
SELECT seal_table('todo', '{id}', 'SELECT, INSERT, UPDATE (done_at, done_by, said)');
SELECT seal_table('noted', '{id}', 'SELECT, INSERT, UPDATE (withdrawn_by, withdrawn_at)');
SELECT seal_table('noted_line', '{noted_id, order_line_id}', 'SELECT, INSERT');
SELECT seal_table('number_pattern', '{id}', 'SELECT, INSERT, UPDATE (code, name, blocks)');
SELECT seal_table('number_counter', '{pattern_id, scope}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('promise', '{id}',
	'SELECT, INSERT, UPDATE (taken, taken_by, taken_at, taken_for, taken_reason, released_by, released_at)');
SELECT seal_table('count_entry', '{id}', 'SELECT, INSERT');
SELECT seal_table('counted', '{order_id, place_id, mark_id}', 'SELECT, INSERT');
SELECT seal_table('returned', '{event_id, mark_id, goes}', 'SELECT, INSERT');
SELECT seal_table('station', '{id}', 'SELECT, INSERT, UPDATE');
SELECT seal_table('route', '{id}', 'SELECT, INSERT', append_only => true);
SELECT seal_table('step', '{id}', 'SELECT, INSERT', append_only => true);
SELECT seal_table('stored_file', '{sha256}', 'SELECT, INSERT', append_only => true, without => '{content}');
SELECT seal_table('mark_note', '{id}', 'SELECT, INSERT', append_only => true);
SELECT seal_table('mark_file', '{id}', 'SELECT, INSERT', append_only => true);
SELECT seal_table('paper', '{id}', 'SELECT, INSERT', append_only => true);
SELECT seal_table('signature', '{id}', 'SELECT, INSERT', append_only => true);

-- Covered by the entry of its event, or an entry itself: appended to, never changed.
SELECT make_append_only('event');
SELECT make_append_only('mark_change');
SELECT make_append_only('mark_alias');
SELECT make_append_only('run');
SELECT make_append_only('run_closing');
SELECT make_append_only('movement');
SELECT make_append_only('order_event');
SELECT make_append_only('row_version');
SELECT make_append_only('ledger_leaf');
SELECT make_append_only('ledger_node');
SELECT make_append_only('former_chain');
SELECT make_append_only('paper_mark');

-- What a row sets off, and what it may not be.
CREATE TRIGGER keep_named BEFORE DELETE ON item FOR EACH ROW EXECUTE FUNCTION keep_named();
CREATE TRIGGER refuse_change BEFORE DELETE OR UPDATE OF id ON place FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON place FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER keep_named BEFORE DELETE ON orders FOR EACH ROW EXECUTE FUNCTION keep_named();
CREATE TRIGGER keep_named BEFORE DELETE ON order_line FOR EACH ROW EXECUTE FUNCTION keep_named();
CREATE TRIGGER keep_draw AFTER INSERT ON drawn_number REFERENCING NEW TABLE AS drawn FOR EACH STATEMENT EXECUTE FUNCTION keep_draw();
CREATE TRIGGER check_event BEFORE INSERT ON event FOR EACH ROW EXECUTE FUNCTION check_event();
CREATE TRIGGER finish_event AFTER INSERT ON event FOR EACH ROW EXECUTE FUNCTION finish_event();
CREATE TRIGGER guard_mark BEFORE DELETE OR UPDATE ON mark FOR EACH ROW EXECUTE FUNCTION guard_mark();
CREATE TRIGGER mark_names AFTER INSERT ON mark REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION mark_names();
CREATE TRIGGER refuse_late AFTER INSERT ON mark REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_late();
CREATE TRIGGER refuse_shared_serials AFTER INSERT
	ON mark REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_shared_serials();
CREATE TRIGGER refuse_truncate BEFORE TRUNCATE ON mark FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER refuse_late AFTER INSERT
	ON mark_change REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_late();
CREATE TRIGGER refuse_late AFTER INSERT
	ON mark_alias REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_late();
CREATE TRIGGER refuse_late AFTER INSERT ON run REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_late();
CREATE TRIGGER run_names AFTER INSERT ON run REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION run_names();
CREATE TRIGGER refuse_late AFTER INSERT
	ON run_closing REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION refuse_late();
CREATE TRIGGER keep_balances AFTER INSERT
	ON movement REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION keep_balances();
-- By its name after the balances: what is not there at all is said first.
CREATE TRIGGER movements_are_checked AFTER INSERT
	ON movement REFERENCING NEW TABLE AS inserted FOR EACH STATEMENT EXECUTE FUNCTION check_movements();
CREATE TRIGGER keep_floor AFTER INSERT ON step FOR EACH ROW EXECUTE FUNCTION keep_floor();
CREATE TRIGGER keep_paper_marks AFTER INSERT
	ON paper_mark REFERENCING NEW TABLE AS printed FOR EACH STATEMENT EXECUTE FUNCTION keep_paper_marks();
-- Whatever checks read gives the catalogue a new version.
DO $$ DECLARE t text; BEGIN
	FOREACH t IN ARRAY ARRAY['firm', 'job', 'item_kind', 'item', 'marking_rule', 'fact', 'fact_rule', 'partner', 'place', 'check_policy',
		'number_pattern'] LOOP
		EXECUTE format('CREATE TRIGGER change_catalogue BEFORE INSERT OR DELETE OR UPDATE ON %I
			FOR EACH ROW EXECUTE FUNCTION change_catalogue()', t);
	END LOOP;
END $$;

-- What the application may do with the others.
GRANT SELECT ON catalogue TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON session TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON sign_in_failure TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON sign_in_known TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON list_choice TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON draft_row TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON scan TO earmark_app;
GRANT SELECT, INSERT ON notice TO earmark_app;
GRANT SELECT, INSERT ON notice_row TO earmark_app;
GRANT SELECT, INSERT, UPDATE (order_id, line_id) ON drawn_number TO earmark_app;
GRANT SELECT, INSERT ON event TO earmark_app;
GRANT SELECT, INSERT, UPDATE (lot_no, serial_no, parent_id, supplier_lot, made_on, expires_on, facts, status, supplier_serial,
	supplier_warranty_until, owner) ON mark TO earmark_app;
GRANT SELECT, INSERT ON mark_change TO earmark_app;
GRANT SELECT, INSERT ON mark_alias TO earmark_app;
GRANT SELECT, INSERT ON run TO earmark_app;
GRANT SELECT, INSERT ON run_closing TO earmark_app;
GRANT SELECT, INSERT ON movement TO earmark_app;
GRANT SELECT ON balance TO earmark_app;
GRANT SELECT, INSERT ON order_event TO earmark_app;
GRANT SELECT ON row_version TO earmark_app;
GRANT SELECT ON seal_queue TO earmark_app;
GRANT SELECT ON sealed_table TO earmark_app;
GRANT SELECT ON ledger_leaf TO earmark_app;
GRANT SELECT ON ledger_node TO earmark_app;
GRANT SELECT ON former_chain TO earmark_app;
GRANT SELECT, INSERT ON count_list TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON station_scan TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON unit_work TO earmark_app;
GRANT SELECT ON floor TO earmark_app;
GRANT SELECT, INSERT, UPDATE, DELETE ON tag TO earmark_app;
GRANT SELECT, INSERT ON tag_use TO earmark_app;
GRANT SELECT, INSERT ON card_print TO earmark_app;
GRANT SELECT, INSERT ON paper_mark TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON print_job TO earmark_app;
GRANT SELECT, INSERT ON label_print TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON printer TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON mail TO earmark_app;
GRANT SELECT, INSERT, UPDATE ON mailbox TO earmark_app;
GRANT SELECT, INSERT ON mailbox_message TO earmark_app;
GRANT SELECT ON migration TO earmark_app;
GRANT USAGE ON SCHEMA public TO earmark_app;
GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO earmark_app;
