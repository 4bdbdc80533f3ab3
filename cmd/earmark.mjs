// The launcher. Plain JavaScript with nothing installed: it installs what is missing, starts the database, then
// hands over to the TypeScript beside it.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readdirSync, rmSync, statSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { application, BENCH, TYPESCRIPT } from './node.mjs';

// Carbon's packages would report their installation to their maker; nothing here reports anything.
process.env.IBM_TELEMETRY_DISABLED = 'true';
const top = resolve(dirname(fileURLToPath(import.meta.url)), '..');
process.chdir(top);
const [verb = 'help', ...args] = process.argv.slice(2);

/** @param {string} sentence @returns {never} */
function stop(sentence) {
	console.error(sentence);
	process.exit(1);
}

const [major, minor] = process.versions.node.split('.').map(Number);
if (major < 20 || (major === 20 && minor < 19))
	stop(`Earmark needs Node.js 20.19 or newer; this is ${process.versions.node}.`);

/** @param {string} cmd @param {string[]} list @param {object} [options] */
const run = (cmd, list, options = {}) => spawnSync(cmd, list, { stdio: 'inherit', ...options });

/** Installs Debian packages, as root or through sudo. @param {string[]} names */
function install(names) {
	console.log(`Installing ${names.join(' and ')} from Debian's packages (a minute or two, once) …`);
	const asRoot = process.getuid?.() === 0 ? [] : ['sudo'];
	const apt = (/** @type {string[]} */ list) => {
		const [cmd, ...rest] = [...asRoot, 'apt-get', ...list];
		return run(cmd, rest, {
			stdio: ['ignore', 'ignore', 'inherit'],
			env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
		}).status;
	};
	apt(['update', '-q']);
	if (apt(['install', '-y', '-q', '--no-install-recommends', ...names]) !== 0)
		stop(`Could not install ${names.join(', ')}. Install them by hand and start again.`);
}

const hasServer = () =>
	existsSync('/usr/lib/postgresql') &&
	readdirSync('/usr/lib/postgresql').some((v) => existsSync(`/usr/lib/postgresql/${v}/bin/initdb`));
const newest = (/** @type {string} */ path) => {
	const s = statSync(path);
	if (!s.isDirectory()) return s.mtimeMs;
	return Math.max(s.mtimeMs, ...readdirSync(path).map((f) => newest(join(path, f))));
};

function ensurePackages() {
	const wanted = statSync('package-lock.json').mtimeMs;
	const have = existsSync('node_modules/.package-lock.json') ? statSync('node_modules/.package-lock.json').mtimeMs : 0;
	if (have >= wanted || (have && process.env.EARMARK_KEEP_PACKAGES)) return;
	console.log('Installing packages from the registry (about a minute, once) …');
	if (run('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error']).status !== 0)
		stop('npm could not install the packages. Is the package registry reachable?');
	// The database driver is mended: a lost connection must not end the application.
	if (run('npx', ['--no-install', 'patch-package'], { stdio: ['ignore', 'ignore', 'inherit'] }).status !== 0)
		stop('The database driver could not be mended. Remove node_modules and start again.');
}

/** @param {string} folder where the built application goes; the demo and the tests each have their own */
function ensureBuild(folder) {
	const sources = ['src', 'cmd', 'static', 'svelte.config.js', 'vite.config.ts', 'run.config.ts', 'package-lock.json'];
	const made = join(folder, 'run', 'tasks.js');
	const built = existsSync(made) ? statSync(made).mtimeMs : 0;
	if (built > Math.max(...sources.filter((f) => existsSync(f)).map(newest))) return;
	console.log('Building (about a minute, after each change) …');
	rmSync(folder, { recursive: true, force: true });
	// tsconfig.json rests on the file that SvelteKit writes into its usual folder; a fresh checkout has none yet.
	if (!existsSync('.svelte-kit/tsconfig.json')) run('npx', ['--no-install', 'svelte-kit', 'sync']);
	for (const config of ['vite.config.ts', 'run.config.ts']) {
		const out = spawnSync('npx', ['vite', 'build', '--config', config, '--logLevel', 'warn'], {
			encoding: 'utf8',
			env: { ...process.env, EARMARK_BUILD: folder, EARMARK_KIT: `.svelte-kit-${folder}` }
		});
		if (out.status !== 0) stop(`The build failed:\n${out.stdout}\n${out.stderr}`);
	}
}

const needs = {
	demo: { database: true, build: 'build' },
	dev: { database: true },
	test: { database: true, browser: true, build: 'build-test' },
	bench: { database: true, build: 'build' },
	verify: { database: true },
	backup: { database: true },
	restore: { database: true },
	token: { database: true },
	password: { database: true }
};
if (!(verb in needs))
	stop(
		[
			'./earmark demo              start with the demo firm on http://127.0.0.1:4173',
			'./earmark dev               the same, rebuilt as you edit',
			'./earmark test              lint, types, unit, database and browser tests; --day 2028-02-29T12:00:00Z as of another day',
			'./earmark bench             time booking and tracing on a generated database; --large: a firm of a million marks; --stock: a hundred thousand lots of one item; --hard: kills and a storm',
			'./earmark verify            check the whole ledger; --head SIZE:ROOT holds it against a paper',
			'./earmark backup FILE       everything in one file, while people work',
			'./earmark restore FILE      a backup into an empty place, checked',
			'./earmark token NAME ROLE [UNTIL]  print a new access for a program',
			'./earmark password [LOGIN]  give a person a new password; the administrator without a name'
		].join('\n')
	);
const need = needs[/** @type {keyof typeof needs} */ (verb)];
if (need.database && !process.env.DATABASE_URL && !hasServer()) install(['postgresql']);
if ('browser' in need && !existsSync('/usr/bin/chromium-headless-shell')) install(['chromium-headless-shell']);
if (args.includes('--day') && !existsSync('/usr/bin/faketime')) install(['faketime']);
ensurePackages();
if ('build' in need) {
	process.env.EARMARK_BUILD = need.build;
	ensureBuild(need.build);
}

const script = [...(verb === 'bench' ? BENCH : TYPESCRIPT), `cmd/${verb}.ts`];
const started = verb === 'demo' ? application(needs.demo.build) : script;
const child = spawn(process.execPath, [...started, ...args], { stdio: 'inherit' });
// Ctrl-C reaches the child by itself; this process only waits for its clean end.
process.on('SIGINT', () => {});
process.on('SIGTERM', () => child.kill('SIGTERM'));
child.on('exit', (code) => process.exit(code ?? 1));
