import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** The words of a PDF, as another program reads them. */
export function words(pdf: Uint8Array): string {
	const folder = mkdtempSync(join(tmpdir(), 'earmark-pdf-'));
	try {
		writeFileSync(join(folder, 'a.pdf'), pdf);
		return execFileSync('pdftotext', ['-layout', join(folder, 'a.pdf'), '-'])
			.toString()
			.replace(/\s+/g, ' ');
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
}
