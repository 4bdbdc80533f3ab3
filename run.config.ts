import { join } from 'node:path';
import { defineConfig } from 'vite';

/**
 * What runs beside the pages of the built application: the start, and what its threads do. As plain files they start at once,
 * and hold no compiler.
 */
export default defineConfig({
	publicDir: false,
	build: {
		ssr: true,
		rollupOptions: { input: { start: 'cmd/demo.ts', tasks: 'src/lib/server/work/tasks.ts' } },
		outDir: join(process.env.EARMARK_BUILD ?? 'build', 'run'),
		target: 'es2022',
		emptyOutDir: true
	}
});
