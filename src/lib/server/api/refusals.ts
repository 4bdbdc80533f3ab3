import { sayWhoMay, type Verb } from '../../core/people/can.ts';

/** What a call without a valid access is told. */
export const NO_ACCESS = 'Send a token that is valid: Authorization: Bearer …';

/** What any call that changes something may be refused for, each with an example. @param verb a right that it may ask */
export const refusals = (verb: Verb) => ({
	400: 'The body is not JSON. Send application/json in UTF-8.',
	401: NO_ACCESS,
	403: sayWhoMay(verb)
});
