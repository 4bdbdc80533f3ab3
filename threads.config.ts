import { join } from 'node:path';
import { defineConfig } from 'vite';

/** What runs in threads, as one file beside the built application: they start at once, and hold no compiler. */
export default defineConfig({
	publicDir: false,
	build: {
		ssr: 'src/lib/server/work/tasks.ts',
		outDir: join(process.env.EARMARK_BUILD ?? 'build', 'threads'),
		target: 'es2022',
		emptyOutDir: true
	}
});
