import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';
import { optimizeImports } from 'carbon-preprocess-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
	preprocess: [vitePreprocess(), optimizeImports()],
	kit: {
		// Each kind of start builds into folders of its own, so that one does not spoil what the other is making.
		outDir: process.env.EARMARK_KIT ?? '.svelte-kit',
		// The few rules of a page's own go along in it.
		inlineStyleThreshold: 6000,
		adapter: adapter({ out: process.env.EARMARK_BUILD ?? 'build', precompress: true }),
		csp: {
			mode: 'auto',
			directives: {
				'default-src': ['self'],
				'script-src': ['self'],
				'style-src': ['self'],
				// Positions of virtual rows and the lengths of bars are style attributes.
				'style-src-attr': ['unsafe-inline'],
				'img-src': ['self', 'data:'],
				'connect-src': ['self'],
				'font-src': ['self'],
				'object-src': ['none'],
				'base-uri': ['none'],
				'form-action': ['self'],
				'frame-ancestors': ['none']
			}
		}
	}
};
