import postgres from 'postgres';
import { connect, type Db } from '../database/connect.ts';
import { migrate } from '../database/migrate.ts';

/** What the database is guarded by, each by its name and how it is defined. */
export type Guards = ReadonlyMap<string, string>;

/**
 * Everything in the database that refuses or does something by itself: triggers, functions, constraints, indexes, columns,
 * views, which tables are sealed, and who may do what.
 */
export async function guardsOf(sql: Db): Promise<Guards> {
	const rows = await sql<{ name: string; is: string }[]>`
		WITH own AS (SELECT c.* FROM pg_class c WHERE c.relnamespace = 'public'::regnamespace
			AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.classid = 'pg_class'::regclass AND d.objid = c.oid AND d.deptype = 'e')),
		functions AS (SELECT p.* FROM pg_proc p WHERE p.pronamespace = 'public'::regnamespace
			AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.classid = 'pg_proc'::regclass AND d.objid = p.oid AND d.deptype = 'e'))
		SELECT format('trigger %s of %s', t.tgname, c.relname) AS name, pg_get_triggerdef(t.oid) || ' ' || t.tgenabled::text AS is
			FROM pg_trigger t JOIN own c ON c.oid = t.tgrelid WHERE NOT t.tgisinternal
		UNION ALL
		SELECT format('guard of the reference %s of %s', x.conname, x.conrelid::regclass), string_agg(t.tgenabled::text, '' ORDER BY t.tgname)
			FROM pg_trigger t JOIN pg_constraint x ON x.oid = t.tgconstraint WHERE t.tgisinternal GROUP BY x.oid, x.conname, x.conrelid
		UNION ALL
		SELECT format('function %s(%s)', p.proname, pg_get_function_identity_arguments(p.oid)), pg_get_functiondef(p.oid) FROM functions p WHERE p.prokind <> 'a'
		UNION ALL
		SELECT format('constraint %s of %s', x.conname, coalesce(c.relname, x.contypid::regtype::text)), pg_get_constraintdef(x.oid) || ' ' || x.convalidated::text
			FROM pg_constraint x LEFT JOIN own c ON c.oid = x.conrelid WHERE x.connamespace = 'public'::regnamespace
		UNION ALL
		SELECT format('index %s', c.relname), pg_get_indexdef(c.oid) || ' ' || i.indisvalid::text FROM pg_index i JOIN own c ON c.oid = i.indexrelid
		UNION ALL
		SELECT format('column %s of %s', a.attname, c.relname), concat_ws(' ', format_type(a.atttypid, a.atttypmod), a.attnotnull, a.attidentity::text, a.attgenerated::text, pg_get_expr(d.adbin, d.adrelid))
			FROM own c JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
			LEFT JOIN pg_attrdef d ON d.adrelid = c.oid AND d.adnum = a.attnum WHERE c.relkind IN ('r', 'p', 'v')
		UNION ALL
		SELECT format('view %s', c.relname), pg_get_viewdef(c.oid) FROM own c WHERE c.relkind = 'v'
		UNION ALL
		SELECT format('table %s', c.relname), concat_ws(' ', c.relkind::text, c.relpersistence::text, c.relrowsecurity, c.relforcerowsecurity, c.relowner = current_user::text::regrole::oid) FROM own c WHERE c.relkind IN ('r', 'p', 'v', 'S')
		UNION ALL
		SELECT format('rule %s of %s', r.rulename, c.relname), pg_get_ruledef(r.oid) FROM pg_rewrite r JOIN own c ON c.oid = r.ev_class WHERE c.relkind <> 'v'
		UNION ALL
		SELECT format('right of %s to %s %s', CASE g.grantee WHEN 0 THEN 'anybody' WHEN current_user::text::regrole::oid THEN 'the owner' ELSE g.grantee::regrole::text END, lower(g.privilege_type), c.relname), g.is_grantable::text
			FROM own c CROSS JOIN LATERAL aclexplode(coalesce(c.relacl, acldefault(CASE c.relkind WHEN 'S' THEN 's' ELSE 'r' END::"char", c.relowner))) g WHERE c.relkind IN ('r', 'p', 'v', 'S')
		UNION ALL
		SELECT format('right of %s to %s %s.%s', CASE g.grantee WHEN 0 THEN 'anybody' WHEN current_user::text::regrole::oid THEN 'the owner' ELSE g.grantee::regrole::text END, lower(g.privilege_type), c.relname, a.attname), g.is_grantable::text
			FROM own c JOIN pg_attribute a ON a.attrelid = c.oid CROSS JOIN LATERAL aclexplode(a.attacl) g
		UNION ALL
		SELECT format('right of %s to %s function %s(%s)', CASE g.grantee WHEN 0 THEN 'anybody' WHEN current_user::text::regrole::oid THEN 'the owner' ELSE g.grantee::regrole::text END, lower(g.privilege_type), p.proname, pg_get_function_identity_arguments(p.oid)), g.is_grantable::text
			FROM functions p CROSS JOIN LATERAL aclexplode(coalesce(p.proacl, acldefault('f', p.proowner))) g
		UNION ALL
		SELECT format('sealed table %s', s.name), concat_ws(' ', s.keys::text, s.without::text, s.hashed::text) FROM sealed_table s
		UNION ALL
		SELECT 'role earmark_app', concat_ws(' ', rolsuper, rolcreaterole, rolcreatedb, rolreplication, rolbypassrls,
			(SELECT string_agg(m.roleid::regrole::text, ',' ORDER BY 1) FROM pg_auth_members m WHERE m.member = r.oid)) FROM pg_roles r WHERE rolname = 'earmark_app'
		UNION ALL
		SELECT 'settings of the database', string_agg(array_to_string(s.setconfig, ','), ';' ORDER BY 1) FROM pg_db_role_setting s
			WHERE s.setdatabase IN (0, (SELECT oid FROM pg_database WHERE datname = current_database())) HAVING count(*) > 0`;
	return new Map(rows.map((r) => [r.name, r.is]));
}

/**
 * What is delivered: read from a database that is made new beside this one, and dropped again.
 * @returns null where this server lets its owner make no database
 */
export async function guardsAsDelivered(url: string): Promise<Guards | null> {
	const name = `earmark_guards_${process.pid}_${Math.floor(Math.random() * 1e6)}`;
	const [own, admin] = [new URL(url), new URL(url)];
	own.pathname = `/${name}`;
	admin.pathname = '/postgres';
	try {
		await migrate(own.href);
	} catch (e) {
		if ((e as { code?: string }).code === '42501') return null;
		throw e;
	}
	const there = connect(own.href, 'owner', 1);
	try {
		return await guardsOf(there);
	} finally {
		await there.end();
		const server = postgres(admin.href, { max: 1, onnotice: () => {} });
		await server`DROP DATABASE ${server(name)}`;
		await server.end();
	}
}
