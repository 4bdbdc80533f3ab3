/*
 * A signature as it was drawn: strokes of points. What is kept is drawn anew from them, so nothing but lines ever stands in it.
 */

/** One stroke of the pen, in px from the upper left corner of the field. */
export type Stroke = readonly { x: number; y: number }[];

/** The field that it is drawn in, px. */
export const FIELD = { width: 560, height: 180 } as const;
/** A signature is at least this long, px: a dot, or a slip of the hand, is none. */
export const LEAST_INK = 60;

/** How much was drawn, px. */
export const inkOf = (strokes: readonly Stroke[]): number =>
	strokes.reduce((sum, s) => sum + s.slice(1).reduce((n, p, i) => n + Math.hypot(p.x - s[i].x, p.y - s[i].y), 0), 0);

/** Is there a signature at all? */
export const isSigned = (strokes: readonly Stroke[]): boolean => inkOf(strokes) >= LEAST_INK;

const at = (n: number, most: number) => String(Math.round(Math.min(Math.max(n, 0), most) * 10) / 10);

/** The picture of a signature, as SVG: lines in its field, which never leave it. */
export function drawInk(strokes: readonly Stroke[]): string {
	const { width, height } = FIELD;
	const lines = strokes
		.filter((s) => s.length)
		.map((s) => {
			// A single point is drawn as a dot.
			const points = s.length > 1 ? s : [s[0], s[0]];
			return `<polyline points="${points.map((p) => `${at(p.x, width)},${at(p.y, height)}`).join(' ')}"/>`;
		});
	return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}"><g fill="none" stroke="#14202a" stroke-width="2.2" stroke-linecap="round" stroke-linejoin="round">${lines.join('')}</g></svg>`;
}
