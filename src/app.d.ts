import type { Person } from '$lib/server/people/sessions.ts';

declare global {
	namespace App {
		interface Locals {
			requestId: string;
			person: Person | null;
			/** set on calls with a bearer token */
			token: { name: string; role: string } | null;
		}
		interface Error {
			message: string;
			requestId?: string;
		}
	}
}
export {};
