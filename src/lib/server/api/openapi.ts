import { z } from 'zod';
import type { Operation } from './call.ts';
import { EXAMPLES } from './examples.ts';

type Json = Record<string, unknown>;
/** What of a JSON Schema is read here and by what is made of the description. */
export interface Schema {
	type?: string;
	description?: string;
	enum?: unknown[];
	const?: unknown;
	format?: string;
	pattern?: string;
	maxLength?: number;
	minimum?: number;
	maximum?: number;
	properties?: Record<string, Schema>;
	required?: string[];
	items?: Schema;
	anyOf?: Schema[];
	additionalProperties?: Schema | boolean;
}
/** One call, as OpenAPI has it. */
export interface Described {
	operationId: string;
	summary: string;
	'x-right'?: string;
	parameters?: {
		name: string;
		in: 'path' | 'query';
		required: boolean;
		description?: string;
		schema: Schema;
		example?: string;
	}[];
	requestBody?: { required: boolean; content: Record<string, { schema: Schema; example?: unknown }> };
	responses: Record<
		string,
		{ description: string; content: Record<string, { schema: Schema | typeof problem; example?: { detail: string } }> }
	>;
}
/** The whole description. */
export interface OpenApi extends Json {
	paths: Record<string, Record<string, Described>>;
}
/** A Zod type as JSON Schema (draft 2020-12, which OpenAPI 3.1 takes as it is). */
const schemaOf = (type: z.ZodType, io: 'input' | 'output'): Schema => {
	const { $schema: _version, ...schema } = z.toJSONSchema(type, {
		io,
		unrepresentable: 'any',
		target: 'draft-2020-12'
	});
	return schema as Schema;
};
const problem = { $ref: '#/components/schemas/Problem' };

function operation(o: Operation): Described {
	const query = o.query ? schemaOf(o.query, 'input') : null;
	const example = EXAMPLES.find((e) => e.call === `${o.method} ${o.path}`);
	const shownAs = (of: Record<string, string> | undefined, name: string) => (of?.[name] ? { example: of[name] } : {});
	const named = [...o.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]);
	return {
		operationId:
			`${o.method.toLowerCase()}${o.path.replace(/[^a-z]+(\w)/gi, (_m, c: string) => c.toUpperCase())}`.replace(
				/\W/g,
				''
			),
		summary: o.summary,
		...(o.right ? { 'x-right': o.right, security: [{ token: [] }] } : { security: [] }),
		...(query || named.length
			? {
					parameters: [
						...named.map((name) => ({
							name,
							in: 'path' as const,
							required: true,
							schema: { type: 'string' },
							...shownAs(example?.params, name)
						})),
						...Object.entries(query?.properties ?? {}).map(([name, { description, ...schema }]) => ({
							name,
							in: 'query' as const,
							required: query?.required?.includes(name) ?? false,
							...(description ? { description } : {}),
							schema,
							...shownAs(example?.query, name)
						}))
					]
				}
			: {}),
		...(o.body
			? {
					requestBody: {
						required: true,
						content: {
							'application/json': {
								schema: schemaOf(o.body, 'input'),
								...(example?.body === undefined ? {} : { example: example.body })
							}
						}
					}
				}
			: {}),
		responses: Object.fromEntries([
			...Object.entries(o.answers).map(([status, a]) => [
				status,
				{ description: a.says, content: { [a.type ?? 'application/json']: { schema: schemaOf(a.schema, 'output') } } }
			]),
			...Object.entries(o.refusals).map(([status, detail]) => [
				status,
				{
					description: 'Refused, with the reason and the way out.',
					content: {
						'application/problem+json': {
							schema: problem,
							example: {
								type: 'about:blank',
								title: 'Refused',
								status: Number(status),
								detail,
								errors: [{ message: detail }]
							}
						}
					}
				}
			])
		])
	};
}

/** The interface for programs as an OpenAPI 3.1 document, made of the table that serves it. */
export function openapi(operations: readonly Operation[]): OpenApi {
	const paths: OpenApi['paths'] = {};
	for (const o of operations) (paths[o.path] ??= {})[o.method.toLowerCase()] = operation(o);
	return {
		openapi: '3.1.0',
		info: {
			title: 'Earmark',
			version: '1',
			description:
				'What the screens do, programs can do: the same checks, the same sentences. Tokens are made in Setup, Tokens.'
		},
		paths,
		components: {
			securitySchemes: { token: { type: 'http', scheme: 'bearer' } },
			schemas: {
				Problem: {
					type: 'object',
					description: 'Problem details (RFC 9457). Each faulty line has an entry in errors.',
					required: ['status', 'title', 'detail', 'errors'],
					properties: {
						type: { type: 'string' },
						title: { type: 'string' },
						status: { type: 'integer' },
						detail: { type: 'string' },
						errors: {
							type: 'array',
							items: {
								type: 'object',
								required: ['message'],
								properties: {
									message: { type: 'string', description: 'The thing, the reason, the way out.' },
									at: { type: 'string', description: 'Where: a field, or movements[3].' },
									code: { type: 'string', description: 'The check that says so.' }
								}
							}
						}
					}
				}
			}
		}
	};
}
