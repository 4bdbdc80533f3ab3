import { z } from 'zod';
import { roles, type Role } from '../../core/people/can.ts';
import { id, line, text } from '../../core/text/input.ts';
import type { Sql } from '../database/connect.ts';
import { pool } from '../database/pool.ts';
import { queueHeadNow, saveWitness } from '../mail/witness.ts';
import { parse } from '../parse.ts';
import { addPerson, listPeople, personInput, setActive, setPassword } from '../people/people.ts';
import { makeToken, revokeToken } from '../people/tokens.ts';
import { storeFile } from '../register/attachments.ts';
import { firmInput, saveFirm } from '../setup/firm.ts';
import { setPicture } from '../setup/items.ts';
import { jobInput, readJob, saveJob, setJobClosed } from '../setup/jobs.ts';
import { saveSite, siteInput, setPlaceUse } from '../setup/places.ts';
import { policyInput, savePolicy } from '../setup/policy.ts';
import { addReason, readReason, reasonInput, setReasonClosed } from '../setup/reasons.ts';
import { readStation, saveStation, setStationClosed, stationInput } from '../setup/stations.ts';
import { readWay, saveWay, setWayClosed, wayInput } from '../setup/ways.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Operation } from './call.ts';
import { doing, keeping, type Kept } from './doing.ts';
import { bytesOf, fileBody } from './files.ts';

const SETS = 'write places and partners';
const isClosed = z.boolean().default(false).describe('Nothing new takes it.');

/** What has a code, is made or changed as given, and is closed or opened again where it is not so yet. */
const closable = (
	call: Omit<Kept, 'right' | 'save'>,
	read: (sql: Sql, code: string) => Promise<{ closed: boolean } | null>,
	save: (sql: Sql, by: string, given: unknown, fresh: boolean) => Promise<void>,
	close: (sql: Sql, by: string, code: string, closed: boolean) => Promise<void>
): Operation =>
	keeping({
		...call,
		right: SETS,
		async save(by, code, { closed: _closed, ...given }) {
			const { closed } = parse(z.looseObject({ closed: isClosed }), { closed: _closed });
			const was = await read(pool(), code);
			await save(pool(), by, { ...given, code }, !was);
			if (closed !== !!was?.closed) await close(pool(), by, code, closed);
			return !was;
		}
	});

const reasonBody = reasonInput.extend({ closed: isClosed });
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
const binBody = z.strictObject({
	staging: z.boolean().describe('Picked goods wait there until they are shipped.')
});
const witnessBody = z.strictObject({ address: text(254, 0).describe('Empty for nobody.') });

/** The calls that set up the firm: what it works with, who may do what, how strongly it takes what is found. */
export const firmCalls: readonly Operation[] = [
	closable(
		{
			path: '/api/v1/jobs/{job}',
			summary: 'Makes a job that things are issued to, or closes one or opens it again.',
			body: jobInput.omit({ code: true }).extend({ closed: isClosed }),
			refused: {
				409: 'There is a job FAIR already, as “Trade fair”. Take another code.',
				422: 'A project is for a customer: choose the customer.'
			}
		},
		readJob,
		saveJob,
		setJobClosed
	),
	closable(
		{
			path: '/api/v1/ways/{way}',
			summary: 'Makes a way of delivery with what it charges, or changes one.',
			body: wayInput.omit({ code: true }).extend({ closed: isClosed }),
			refused: { 422: 'Type the currency as three letters: EUR.' }
		},
		readWay,
		saveWay,
		setWayClosed
	),
	closable(
		{
			path: '/api/v1/stations/{station}',
			summary: 'Makes a station of the floor, or changes one.',
			body: stationInput.omit({ code: true }).extend({ closed: isClosed }),
			refused: { 422: 'There is no place QS/A9. Add it in Setup, or correct the code.' }
		},
		readStation,
		saveStation,
		setStationClosed
	),
	doing({
		path: '/api/v1/reasons',
		summary: 'Adds a reason to the firm’s list, or closes one or opens it again.',
		right: SETS,
		body: reasonBody,
		refused: {
			409: '“Broken” is there already, as a reason to scrap. Take other words.',
			422: 'Choose what it is a reason for.'
		},
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
		body: binBody,
		refused: {
			404: 'There is no place QS/A9. Reload the page.',
			422: 'Goods arrive at QS/D1. Picked goods wait at another bin.'
		},
		async run({ who, params, body }) {
			const { staging } = parse(binBody, body);
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
		refused: {
			409: 'ada is Ada Brook, assembly. A person keeps name and role: let them in under another.',
			422: 'A password has at least 10 characters.'
		},
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
		body: witnessBody,
		refused: { 422: 'This is no mail address. Type it as name@example.org.' },
		run: ({ who, body }) => saveWitness(pool(), who.name, parse(witnessBody, body).address)
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
