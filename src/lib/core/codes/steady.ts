/** A camera sees a code many times a second: how long, in ms, one must be out of sight before it counts as shown again. */
export const AWAY = 1500;

/**
 * Tells codes that are shown anew from the one that is still held before the camera. A code counts when it was read
 * twice running, so that one blurred picture takes nothing.
 */
export class Steady {
	private held: string | null = null;
	private seen = -Infinity;
	private last: string | null = null;

	/**
	 * @param text what a picture shows; null for nothing
	 * @param at when it was taken, in ms
	 * @returns the code, when it is to be taken now
	 */
	look(text: string | null, at: number): string | null {
		if (text !== null && text === this.held) {
			this.seen = at;
			this.last = text;
			return null;
		}
		if (this.held !== null && at - this.seen > AWAY) this.held = null;
		const twice = text !== null && text === this.last;
		this.last = text;
		if (!twice) return null;
		this.held = text;
		this.seen = at;
		return text;
	}
}
