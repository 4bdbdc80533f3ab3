import { z } from 'zod';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { MOST_BYTES } from '../register/attachments.ts';

/** A file as programs give it: its bytes in base64, which a third more signs hold. */
export const fileBody = z.strictObject({
	name: line(200, 1, 'Name the file.'),
	content: z
		.string()
		.max(Math.ceil(MOST_BYTES / 3) * 4 + 4, 'A file has at most 10 MB. Make it smaller.')
		.describe('A PDF, PNG or JPEG, in base64.')
});
/** The file that was given. @throws Problem when it is no base64 */
export function bytesOf({ name, content }: z.output<typeof fileBody>): { name: string; bytes: Uint8Array } {
	if (!/^[A-Za-z0-9+/\s]*={0,2}\s*$/.test(content))
		throw new Problem([{ message: 'This is no base64. Encode the bytes of the file.', at: 'content' }]);
	return { name, bytes: Buffer.from(content, 'base64') };
}
/** A file or paper as an answer of its own. */
export const fileAnswer = (file: { content: Uint8Array; type: string; name: string }): Response =>
	new Response(new Uint8Array(file.content), {
		headers: {
			'content-type': file.type,
			'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(file.name)}`
		}
	});
