import { z } from 'zod';
import { roles, type Role } from '../../core/people/can.ts';
import { id, line, text } from '../../core/text/input.ts';
import { pool } from '../database/pool.ts';
import { queueHeadNow, saveWitness } from '../mail/witness.ts';
import { parse } from '../parse.ts';
import { addPerson, listPeople, personInput, setActive, setPassword } from '../people/people.ts';
import { makeToken, revokeToken } from '../people/tokens.ts';
import { storeFile } from '../register/attachments.ts';
import { firmInput, saveFirm } from '../setup/firm.ts';
import { setPicture } from '../setup/items.ts';
import { addJob, jobInput, listJobs, setJobClosed } from '../setup/jobs.ts';
import { saveSite, siteInput, setPlaceUse } from '../setup/places.ts';
import { policyInput, savePolicy } from '../setup/policy.ts';
import { addReason, readReason, reasonInput, setReasonClosed } from '../setup/reasons.ts';
import { readStation, saveStation, setStationClosed, stationInput } from '../setup/stations.ts';
import { readWay, saveWay, setWayClosed, wayInput } from '../setup/ways.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Operation } from './call.ts';
import { doing, keeping } from './doing.ts';
import { bytesOf, fileBody } from './files.ts';

const SETS = 'write places and partners';
const closed = z.boolean().default(false).describe('Nothing new takes it.');

/** Makes or changes what has a code, and closes it or opens it again where that is asked. */
async function keep(there: boolean, save: (fresh: boolean) => Promise<void>, close: () => Promise<void>) {
	await save(!there);
	await close();
	return !there;
}

const jobBody = jobInput.omit({ code: true }).extend({ closed });
const wayBody = wayInput.omit({ code: true }).extend({ closed });
const stationBody = stationInput.omit({ code: true }).extend({ closed });
const reasonBody = reasonInput.extend({ closed });
const personBody = z.strictObject({
	name: personInput.shape.name.optional(),
	role: z.enum(roles).optional(),
	password: personInput.shape.password.optional(),
	active: z.boolean().optional().describe('May sign in.')
});
const tokenBody = z.strictObject({
	name: line(60, 1, 'Name the program that will use it, in at most 60 characters.'),
	role: z.enum(roles, 'Choose a role.'),
	ends: line(40, 0).default('').describe('Its last day; empty for none.')
});
const siteBody = siteInput.extend({
	staging: z.boolean().optional().describe('Of a bin: picked goods wait there until they are shipped.')
});

/** The calls that set up the firm: what it works with, who may do what, how strongly it takes what is found. */
export const firmCalls: readonly Operation[] = [
	keeping({
		path: '/api/v1/jobs/{job}',
		summary: 'Makes a job that things are issued to, or closes one or opens it again.',
		right: SETS,
		body: jobBody,
		refused: 'A project is for a customer: choose the customer.',
		async save(by, code, given) {
			const { closed, ...job } = parse(jobBody, given);
			const was = (await listJobs(pool())).find((j) => j.code === code);
			if (was && (was.name !== job.name || was.kind !== job.kind || (was.partner ?? '') !== (job.partner ?? '')))
				throw new Problem(`There is a job ${code} already, as “${was.name}”. Take another code.`, 409);
			return keep(
				!!was,
				async (fresh) => void (fresh && (await addJob(pool(), by, { ...job, code }))),
				() => setJobClosed(pool(), by, code, closed)
			);
		}
	}),
	keeping({
		path: '/api/v1/ways/{way}',
		summary: 'Makes a way of delivery with what it charges, or changes one.',
		right: SETS,
		body: wayBody,
		refused: 'Type the currency as three letters: EUR.',
		async save(by, code, given) {
			const { closed } = parse(wayBody, given);
			const { closed: _closed, ...way } = given;
			const was = await readWay(pool(), code);
			return keep(
				!!was,
				(fresh) => saveWay(pool(), by, { ...way, code }, fresh),
				async () => void (closed !== !!was?.closed && (await setWayClosed(pool(), by, code, closed)))
			);
		}
	}),
	keeping({
		path: '/api/v1/stations/{station}',
		summary: 'Makes a station of the floor, or changes one.',
		right: SETS,
		body: stationBody,
		refused: 'There is no place QS/A9. Add it in Setup, or correct the code.',
		async save(by, code, given) {
			const { closed, ...station } = parse(stationBody, given);
			const was = await readStation(pool(), code);
			return keep(
				!!was,
				(fresh) => saveStation(pool(), by, { ...station, code }, fresh),
				async () => void (closed !== !!was?.closed && (await setStationClosed(pool(), by, code, closed)))
			);
		}
	}),
	doing({
		path: '/api/v1/reasons',
		summary: 'Adds a reason to the firm’s list, or closes one or opens it again.',
		right: SETS,
		body: reasonBody,
		refused: { 422: 'Choose what it is a reason for.' },
		async run({ who, body }) {
			const { closed, ...reason } = parse(reasonBody, body);
			const was = await readReason(pool(), reason.name);
			if (was && was.act !== reason.act)
				throw new Problem(`“${reason.name}” is there already, as a reason to ${was.act}. Take other words.`, 409);
			if (!was) await addReason(pool(), who.name, reason);
			if (closed !== !!was?.closed) await setReasonClosed(pool(), who.name, reason.name, closed);
			return { said: `“${reason.name}” is ${closed ? 'closed' : 'in the list'}.` };
		}
	}),
	doing({
		method: 'PATCH',
		path: '/api/v1/places/{site}',
		summary:
			'Says what is taken first at a site, whether goods go to its bins first, and which sites are its neighbours.',
		right: SETS,
		body: siteInput,
		refused: { 404: 'There is no site QS. Reload the page.' },
		run: ({ who, params, body }) => saveSite(pool(), who.name, params.site, body)
	}),
	doing({
		method: 'PATCH',
		path: '/api/v1/places/{site}/{bin}',
		summary: 'Says whether picked goods wait at a bin until they are shipped.',
		right: SETS,
		body: siteBody.pick({ staging: true }),
		refused: {
			404: 'There is no place QS/A9. Reload the page.',
			422: 'Goods arrive at QS/D1. Picked goods wait at another bin.'
		},
		async run({ who, params, body }) {
			const { staging = false } = parse(siteBody.pick({ staging: true }), body);
			await setPlaceUse(pool(), who.name, `${params.site}/${params.bin}`, 'staging', staging);
		}
	}),
	doing({
		method: 'PATCH',
		path: '/api/v1/firm',
		summary:
			'Changes what is given of the firm’s settings: its time, what is taken first, its terms of sale, the limit of counts.',
		right: SETS,
		body: firmInput,
		refused: { 422: 'There is no such time zone. Type its name as Europe/London or America/New_York.' },
		run: ({ who, body }) => saveFirm(pool(), who.name, body)
	}),
	doing({
		method: 'PATCH',
		path: '/api/v1/checks',
		summary: 'Sets how strongly what checks find is taken: stop, reason or note. Those that are not named stay.',
		right: 'write items',
		body: policyInput,
		refused: { 422: 'There is no “colour” here. Remove it, or correct the name.' },
		run: ({ who, body }) => savePolicy(pool(), who.name, body)
	}),
	doing({
		method: 'PUT',
		path: '/api/v1/items/{item}/picture',
		summary: 'Sets the picture of an item, or takes it away.',
		right: 'write items',
		body: fileBody.nullable(),
		refused: { 404: 'There is no item PROBE.', 422: 'probe.txt is no PDF, PNG or JPEG. Save it as one of these.' },
		async run({ who, params, body }) {
			const file = parse(fileBody.nullable(), body);
			const kept = file ? await storeFile(pool(), who.name, bytesOf(file)) : null;
			await setPicture(pool(), who.name, params.item, kept?.sha256 ?? null);
		}
	}),
	keeping({
		path: '/api/v1/people/{login}',
		summary: 'Lets a person in under a sign-in name, gives them a new password, or keeps them out.',
		right: 'manage people',
		body: personBody,
		refused: 'A password has at least 10 characters.',
		async save(by, login, given) {
			const { active, ...person } = parse(personBody, given);
			const was = (await listPeople(pool())).find((p) => p.login === login);
			if (!was) await addPerson(pool(), by, { ...person, login });
			else if ((person.name ?? was.name) !== was.name || (person.role ?? was.role) !== was.role)
				throw new Problem(
					`${login} is ${was.name}, ${was.role}. A person keeps name and role: let them in under another.`,
					409
				);
			else if (person.password) await setPassword(pool(), by, login, person.password);
			if (active !== undefined && active !== (was?.active ?? true)) await setActive(pool(), by, login, active);
			return !was;
		}
	}),
	doing({
		path: '/api/v1/tokens',
		summary: 'Makes an access for a program. Its secret is given this once.',
		right: 'manage tokens',
		body: tokenBody,
		refused: { 422: '1 Mar 2026 is over. Give a day from today on.' },
		says: 'It is made.',
		answers: z.object({ secret: z.string() }),
		async run({ who, body }) {
			const { name, role, ends } = parse(tokenBody, body);
			return { secret: await makeToken(pool(), name, role satisfies Role, who.name, ends) };
		}
	}),
	doing({
		method: 'DELETE',
		path: '/api/v1/tokens/{token}',
		summary: 'Withdraws an access for a program, at once.',
		right: 'manage tokens',
		refused: { 404: 'There is no access 17. Reload the page.' },
		run: ({ who, params }) => revokeToken(pool(), who.name, parse(id, params.token))
	}),
	doing({
		method: 'PUT',
		path: '/api/v1/ledger/witness',
		summary: 'Names who is sent the head of the ledger each day; nobody, where it is empty.',
		right: 'name the witness',
		body: z.strictObject({ address: text(254, 0) }),
		refused: { 422: 'This is no mail address. Type it as name@example.org.' },
		run: ({ who, body }) =>
			saveWitness(pool(), who.name, parse(z.strictObject({ address: text(254, 0) }), body).address)
	}),
	doing({
		path: '/api/v1/ledger/witness',
		summary: 'Sends the head of the ledger to the witness now.',
		right: 'name the witness',
		refused: { 422: 'Name a witness first.' },
		async run({ who }) {
			const to = await queueHeadNow(pool(), who.name);
			if (!to) throw new Problem('Name a witness first.');
			return { said: `On its way to ${to}.` };
		}
	})
];
