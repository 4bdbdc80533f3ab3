import type { Problem } from '$lib/core/problem/problem.ts';
import type { Person } from '$lib/server/people/sessions.ts';

declare global {
	namespace App {
		interface Locals {
			requestId: string;
			/** the database could not answer: said in its place, once the request was tried again where that may be */
			trouble?: Problem | null;
			person: Person | null;
			/** set on calls with a bearer token */
			token: { name: string; role: string } | null;
		}
		interface PageData {
			/** the time zone of the times shown; on every page behind the sign-in */
			zone?: string;
		}
		interface Error {
			message: string;
			requestId?: string;
		}
	}
}
export {};
