// Moves the clock of the process that is started with it, and of its threads: `./earmark test --day` runs everything on
// another day. EARMARK_SHIFT says by how many milliseconds.
const shift = Number(process.env.EARMARK_SHIFT ?? 0);
const Real = Date;
const now = () => Real.now() + shift;
globalThis.Date = new Proxy(Real, {
	construct: (_, given, target) =>
		Reflect.construct(Real, given.length ? given : [now()], target === Date ? Real : target),
	apply: () => new Real(now()).toString(),
	get: (_, name) => (name === 'now' ? now : Reflect.get(Real, name))
});
