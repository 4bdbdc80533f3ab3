-- Text, numbers and dates: nothing here reads a table.

-- A text by its UTF-16 code units, by which RFC 8785 orders the members of an object.
CREATE OR REPLACE FUNCTION code_units(t text) RETURNS text
	LANGUAGE sql IMMUTABLE PARALLEL SAFE
AS $$
	SELECT string_agg(CASE WHEN ascii(c) < 65536 THEN lpad(to_hex(ascii(c)), 4, '0')
		ELSE to_hex(55296 + ((ascii(c) - 65536) >> 10)) || to_hex(56320 + ((ascii(c) - 65536) & 1023)) END, '' ORDER BY n)
			FROM regexp_split_to_table(t, '') WITH ORDINALITY s(c, n)
$$;

-- JSON as RFC 8785 has it. Code units are asked only of an object that has a member named outside ASCII.
CREATE OR REPLACE FUNCTION canonical(j jsonb) RETURNS text
	LANGUAGE plpgsql IMMUTABLE PARALLEL SAFE
AS $$
DECLARE members text;
BEGIN
	IF jsonb_typeof(j) = 'object' THEN
		SELECT string_agg(m.text, ',' ORDER BY m.place COLLATE "C") INTO members
			FROM (SELECT CASE WHEN bool_and(octet_length(e.key) = length(e.key)) OVER () THEN e.key ELSE code_units(e.key) END AS place,
				to_json(e.key)::text || ':' || CASE jsonb_typeof(e.value)
					WHEN 'number' THEN '"' || trim_scale(e.value::text::numeric) || '"' WHEN 'object' THEN canonical(e.value) WHEN 'array'
						THEN canonical(e.value)
					ELSE e.value::text END AS text FROM jsonb_each(j) e) m;
		RETURN '{' || coalesce(members, '') || '}';
	ELSIF jsonb_typeof(j) = 'array' THEN
		SELECT string_agg(canonical(a.value), ',' ORDER BY a.n) INTO members FROM jsonb_array_elements(j) WITH ORDINALITY a(value, n);
		RETURN '[' || coalesce(members, '') || ']';
	ELSIF jsonb_typeof(j) = 'number' THEN RETURN '"' || trim_scale(j::text::numeric) || '"';
	END IF;
	RETURN j::text;
END $$;

-- One member of an entry's object. As stable as to_json is, so that it is written where it stands and not called.
CREATE OR REPLACE FUNCTION member(name text, value text) RETURNS text
	LANGUAGE sql STABLE PARALLEL SAFE
AS $$
	SELECT coalesce(',"' || name || '":' || to_json(value), '')
$$;

-- A moment as entries write it. As stable as to_char is, so that it is not called but written where it stands.
CREATE OR REPLACE FUNCTION entry_time(at timestamp with time zone) RETURNS text
	LANGUAGE sql STABLE PARALLEL SAFE
AS $$
	SELECT to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')
$$;

-- The last moment that a text means, as people of the firm read it: of a day its end, of a minute its beginning.
CREATE OR REPLACE FUNCTION moment_of(written text) RETURNS timestamp with time zone
	LANGUAGE sql STABLE
AS $$
	SELECT CASE WHEN length(written) = 10 THEN ((written::date + 1)::timestamp AT TIME ZONE f.zone) - interval '1 microsecond'
		ELSE written::timestamp AT TIME ZONE f.zone END FROM firm f
$$;

-- The hash of a leaf and of a node (RFC 9162, 2.1.1).
CREATE OR REPLACE FUNCTION leaf_hash(entry text) RETURNS bytea
	LANGUAGE sql IMMUTABLE PARALLEL SAFE
AS $$
	SELECT sha256('\x00'::bytea || convert_to(entry, 'UTF8'))
$$;

CREATE OR REPLACE FUNCTION node_hash(l bytea, r bytea) RETURNS bytea
	LANGUAGE sql IMMUTABLE PARALLEL SAFE
AS $$
	SELECT sha256('\x01'::bytea || l || r)
$$;

-- A quantity as lists show it inside a text: grouped, by the firm's sign.
CREATE OR REPLACE FUNCTION shown_qty(qty numeric, sign text) RETURNS text
	LANGUAGE sql STABLE
AS $$
	SELECT translate(rtrim(to_char(qty, 'FM999,999,999,990.999999'), '.'), ',.', CASE sign WHEN ',' THEN '.,' ELSE ',.' END)
$$;

CREATE OR REPLACE FUNCTION worse_status(own text, lots text) RETURNS text
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT CASE WHEN lots IS NOT NULL AND array_position(ARRAY['released', 'quarantine', 'held', 'rejected'], lots)
		> array_position(ARRAY['released', 'quarantine', 'held', 'rejected'], own) THEN lots ELSE own END
$$;

CREATE OR REPLACE FUNCTION notice_on(expires date, days integer) RETURNS date
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT expires - coalesce(days, 30)
$$;

-- A row by the columns that it is known by.
CREATE OR REPLACE FUNCTION row_key(r jsonb, keys text[]) RETURNS text
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT string_agg(coalesce(r ->> k, '-'), ' ' ORDER BY n) FROM unnest(keys) WITH ORDINALITY u(k, n)
$$;

-- A row as its entry holds it.
CREATE OR REPLACE FUNCTION row_state(r jsonb, without text[], hashed text[]) RETURNS text
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT canonical(r - without || coalesce((SELECT jsonb_object_agg(h, encode(sha256(convert_to(r ->> h, 'UTF8')), 'hex'))
		FROM unnest(hashed) h), '{}'))
$$;

-- A correction that moves stock into another lot is no step of the marking rule: nothing is asked of it.
CREATE OR REPLACE FUNCTION step_of(kind text, from_code text, to_code text, from_site bigint, to_site bigint, role text) RETURNS text
	LANGUAGE sql IMMUTABLE
AS $$
	SELECT CASE
		WHEN kind = 'correct' THEN NULL
		WHEN role IS NOT NULL THEN CASE WHEN kind = 'repack' THEN 'repack' WHEN kind = 'service' THEN 'service part'
			WHEN role = 'make' THEN 'production output' ELSE 'production use' END
		WHEN from_code = '@supplier' THEN 'receipt' WHEN from_code = '@customer' THEN 'customer return'
		WHEN to_code = '@customer' THEN 'shipment' WHEN to_code = '@supplier' THEN 'supplier return' WHEN to_code = '@job' THEN 'job use'
		WHEN kind = 'count' THEN 'count' WHEN from_code LIKE '@%' THEN 'adjustment in' WHEN to_code LIKE '@%' THEN 'adjustment out'
		WHEN from_site = to_site THEN 'move' ELSE 'transfer' END
$$;

-- What a number looks like: letters of other alphabets as the Latin ones they look like (Unicode Technical
-- Standard 39, confusables.txt: single signs that look like one sign of ASCII), full width as half (NFKC),
-- capitals as small, 0 as o, 1 and I as l. Two numbers of one item that look the same are asked about before
-- the second is taken.
CREATE OR REPLACE FUNCTION looks(number text) RETURNS text
	LANGUAGE sql IMMUTABLE PARALLEL SAFE
AS $$
	SELECT CASE WHEN number ~ '^[ -~]*$' THEN translate(lower(number), '01i|', 'olll')
		ELSE translate(translate(lower(normalize(number, NFKC)),
			U&'\07fa\2010\2012\2013\06d4\2043\02d7\2212\2796\2cbb\060d\066b\201a\a4f9\0589\0703\0704\16ec\1803\1809\205a\05c3\02f8\a789\2236'
			'\02d0\a4fd\01c3\2d51\0294\0242\097d\ab7e\a6eb\0701\0702\a60e\0660\06f0\a4f8\2768\2772\3014\fd3e\2769\2773\3015\fd3f\2774\2775'
			'\204e\066d\2217\1735\2041\2215\2044\2571\27cb\29f8\31d3\3033\2cc7\30ce\4e3f\2216\27cd\29f5\29f9\31d4\4e36\a778\02c4\02c6\16ed'
			'\2795\2039\276e\02c2\1438\16b2\1400\2e40\30a0\a4ff\203a\276f\02c3\1433\2053\223c\a75b\01a8\03e9\a645\14bf\a6ef\025c\021d\0292'
			'\a76b\2ccd\0437\04e1\ab9e\01bd\2cd3\0431\abbe\09ea\0a6a\0223\0a67\0b68\09ed\0d6d\a76f\2ccb\237a\0251\03b1\0430\ab7a\15c5\a4ee'
			'\0185\044c\ab9f\1472\15af\a7b5\03b2\0432\13fc\15f7\a4d0\1d04\2ca5\0441\abaf\a4da\0501\abb7\146f\a4d2\ab70\15de\15ea\a4d3\212e'
			'\ab32\0435\04bd\22ff\03b5\2d39\ab7c\a4f0\ab35\a799\1e9d\0584\03dd\15b4\a4dd\0261\1d83\018d\0581\050d\ab90\13fb\a4d6\04bb\0570'
			'\ab92\03b7\2c8f\043d\ab8b\157c\a4e7\2373\0131\026a\0269\03b9\0456\a647\04cf\ab75\03f3\0458\029d\ab7b\148d\a4d9\03ba\2c95\043a'
			'\abb6\16d5\a4d7\05c0\2223\23fd\0661\06f1\01c0\2c93\05d5\05df\0627\07ca\2d4f\16c1\a4f2\2cd1\abae\14aa\a4e1\03bc\03fb\2c99\043c'
			'\ab87\15f0\16d6\a4df\0578\057c\03bd\2c9b\a4e0\0966\0a66\0ae6\0be6\0c66\0ce6\0d66\0e50\0ed0\1040\0665\06f5\1d0f\1d11\ab3d\03bf'
			'\03c3\2c9f\043e\10ff\0585\05e1\0647\06be\06c1\06d5\0d20\101d\07c0\09e6\0b66\3007\2d54\12d0\0b20\a4f3\2374\03c1\2ca3\0440\abb2'
			'\146d\a4d1\051b\0563\0566\2d55\ab47\ab48\1d26\2c85\0433\ab81\0280\ab71\aba2\1587\a4e3\a731\0455\abaa\057f\aba5\a4e2\22a4\27d9'
			'\03c4\2ca7\0442\ab72\a4d4\a79f\1d1c\ab4e\ab52\028b\03c5\057d\222a\22c3\1200\144c\a4f4\2228\22c1\1d20\0475\05d8\aba9\0667\06f7'
			'\2d38\142f\a6df\a4e6\026f\1d21\0461\051d\0561\ab83\aba4\a4ea\166e\00d7\292b\292c\2a2f\0445\1541\157d\166d\2573\ab53\03c7\2cad'
			'\2d5d\16b7\a4eb\0263\1d8c\028f\1eff\ab5a\03b3\0443\04af\10e7\2ca9\ab79\ab8d\a4ec\1d22\ab93\03b6\a4dc\2cba\0241\13ae\2cc6\a75a'
			'\01a7\03e8\a644\a7ab\021c\01b7\a76a\2ccc\0417\04e0\13ce\01bc\2cd2\13ee\0222\a76e\2cca\0391\0410\13aa\0184\042c\13cf\a7b4\0392'
			'\0412\13f4\2ca4\0421\13df\13e7\13a0\0395\0415\13ac\a798\03dc\050c\13c0\13f3\13c2\0397\2c8e\041d\13bb\13a5\a7b2\037f\0408\13ab'
			'\039a\2c94\041a\13e6\0196\0399\2c92\0406\04c0\2cd0\13de\039c\03fa\2c98\041c\13b7\039d\2c9a\039f\2c9e\041e\0555\03a1\2ca2\0420'
			'\13e2\01a6\13a1\13d2\0405\054f\13d5\13da\03a4\2ca6\0422\13a2\054d\0474\13d9\051c\13b3\13d4\a7b3\03a7\2cac\0425\03a5\2ca8\0423'
			'\04ae\13a9\13bd\0396\13c3',
			'_---------,,,,:::::::::::::!!?????......(((()))){}***////////////\\\\\\&^^++<<<<<====>>>>~~222222333333345666888999999aaaaaaabbbbb'
			'bbbbbbcccccddddddddeeeeeeeeefffffffgggggggghhhhhhhhhllllllllljjjjjjkkkkkkllllllllllllllllllmmmmmmmmnnnnnoooooooooooooooooooooooooo'
			'oooooooooopppppppqqqqrrrrrrrrrrrsssssstttttttuuuuuuuuuuuuvvvvvvvvvvvvwwwwwwwwxxxxxxxxxxxxxxxxyyyyyyyyyyyyyzzzz-??/2222333333345668'
			'99aaabbbbbbbcccddeeeffggghhhhhljjjjkkkklllllllmmmmmnnoooopppprrrssssttttuvvwwwxxxxyyyyyyzz'), '01i|', 'olll') END
$$;
