import { OPERATIONS } from './contract.ts';
import { openapi, type Described, type Schema } from './openapi.ts';

/** A field of what a call is asked or answers. */
export interface Field {
	/** where it stands: movements[].lot */
	name: string;
	/** text, number, one of … */
	type: string;
	required: boolean;
	says: string;
}
/** One call, as a page shows it. */
export interface Readable {
	id: string;
	method: string;
	path: string;
	summary: string;
	/** the right that it needs; null for anybody */
	right: string | null;
	query: Field[];
	body: Field[];
	/** a body that it may be given, as JSON; null where it takes none */
	example: string | null;
	answers: { status: string; says: string; fields: Field[] }[];
	refusals: { status: string; example: string }[];
}
const WORDS: Record<string, string> = { string: 'text', integer: 'number', boolean: 'true or false' };
/** What a value may be, in words. */
function typeOf(s: Schema): string {
	if (s.const !== undefined) return JSON.stringify(s.const);
	if (s.enum) return `one of ${s.enum.map(String).join(', ')}`;
	if (s.anyOf) return [...new Set(s.anyOf.map(typeOf))].filter((t) => t !== 'null').join(' or ');
	if (s.type === 'array') return s.items?.properties ? 'list' : `list of ${s.items ? typeOf(s.items) : 'values'}`;
	if (s.format) return { date: 'day', 'date-time': 'time' }[s.format] ?? 'text';
	// A value that may be nothing has two types.
	const [type = ''] = [s.type ?? []].flat().filter((t) => t !== 'null');
	return WORDS[type] ?? (type || 'any value');
}
/** The fields of a schema and of what stands in it, each by its place. */
function fieldsOf(s: Schema, at = ''): Field[] {
	const inner = s.anyOf?.filter((x) => x.properties || x.items) ?? [];
	if (inner.length) {
		const all = inner.flatMap((x) => fieldsOf(x, at));
		return all.filter((f, i) => all.findIndex((x) => x.name === f.name) === i);
	}
	if (s.items) return fieldsOf(s.items, `${at}[]`);
	return Object.entries(s.properties ?? {}).flatMap(([key, value]) => {
		const name = at ? `${at}.${key}` : key;
		const says = value.description ?? value.anyOf?.find((x) => x.description)?.description ?? '';
		return [
			{ name, type: typeOf(value), required: s.required?.includes(key) ?? false, says },
			...fieldsOf(value, name)
		];
	});
}

const exampleOf = ({ requestBody }: Described): string | null => {
	const { example } = requestBody ? Object.values(requestBody.content)[0] : {};
	return example === undefined ? null : JSON.stringify(example, null, 2);
};

let made: Readable[] | null = null;
/** Every call, from the same description that programs read. */
export const described = (): Readable[] =>
	(made ??= Object.entries(openapi(OPERATIONS).paths).flatMap(([path, methods]) =>
		Object.entries(methods).map(([method, o]): Readable => {
			const [answers, refusals] = [[], []] as [Readable['answers'], Readable['refusals']];
			for (const [status, r] of Object.entries(o.responses)) {
				const { schema, example } = Object.values(r.content)[0];
				if (example) refusals.push({ status, example: example.detail });
				else if (!('$ref' in schema)) answers.push({ status, says: r.description, fields: fieldsOf(schema) });
			}
			return {
				...{ id: o.operationId, method: method.toUpperCase(), path, summary: o.summary, right: o['x-right'] ?? null },
				query: (o.parameters ?? []).map((p) => ({
					...{ name: p.name, type: typeOf(p.schema), required: p.required },
					says: p.description ?? (p.in === 'path' ? 'In the address.' : '')
				})),
				body: o.requestBody ? fieldsOf(Object.values(o.requestBody.content)[0].schema) : [],
				example: exampleOf(o),
				...{ answers, refusals }
			};
		})
	));
