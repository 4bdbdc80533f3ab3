import { z } from 'zod';

/** What the parser says where a field has no sentence of its own: plain, with the way out. */
z.config({
	customError: (issue) => {
		switch (issue.code) {
			case 'invalid_type':
				return issue.input === undefined || issue.input === null
					? 'This is missing. Give it.'
					: `This must be ${/^[aeiou]/.test(issue.expected) ? 'an' : 'a'} ${issue.expected}. Correct it.`;
			case 'too_small':
				return issue.origin === 'string' ? 'This is empty. Give it.' : `This is less than ${issue.minimum}. Give more.`;
			case 'too_big':
				return issue.origin === 'string'
					? `This has more than ${issue.maximum} characters. Check what was pasted.`
					: `This is more than ${issue.maximum}. Give less.`;
			case 'unrecognized_keys':
				return `There is no ${issue.keys.map((k) => `“${k.slice(0, 40)}”`).join(', ')} here. Remove it, or correct the name.`;
			case 'invalid_value':
				return `Give one of: ${issue.values.map(String).join(', ')}.`;
			case 'invalid_union':
				return issue.input === undefined || issue.input === null
					? 'This is missing. Give it.'
					: 'This is not written as it should be. Correct it.';
			default:
				return 'This is not written as it should be. Correct it.';
		}
	}
});
