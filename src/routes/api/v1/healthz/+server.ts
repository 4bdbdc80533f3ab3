import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';

export async function GET() {
	try {
		await pool()`SELECT 1`;
		return json({ status: 'ok' });
	} catch {
		return json({ status: 'the database does not answer' }, { status: 503 });
	}
}
