/** One thing that stands in the way, named so that a person or a program can mend it. */
export interface Fault {
	/** What to do, in plain words: the thing, the reason, the way out. */
	message: string;
	/** Where: "line 2", "movements[3]", a field's name. */
	at?: string;
	/** A machine's word for the check that says so, such as "on hand". Nobody decides anything by the message. */
	code?: string;
	/** reason: one line of why lets it pass; otherwise it has to be mended */
	level?: 'stop' | 'reason';
}

/** A refusal. The same object becomes the message on a screen and the problem document of the API (RFC 9457). */
export class Problem extends Error {
	readonly faults: Fault[];
	readonly status: number;
	constructor(faults: Fault[] | string, status = 422) {
		const list = typeof faults === 'string' ? [{ message: faults }] : faults;
		super(list.map((f) => f.message).join(' '));
		this.name = 'Problem';
		this.faults = list;
		this.status = status;
	}

	/** What kind of refusal it is, in short. */
	private title(): string {
		if (this.status !== 422) return 'Refused';
		return this.faults.every((f) => f.code === 'form')
			? 'The request could not be read'
			: 'Not booked: a rule is broken';
	}

	/** RFC 9457 problem details, with one entry in `errors` for each fault. */
	toDocument() {
		return {
			type: 'about:blank',
			title: this.title(),
			status: this.status,
			detail: this.faults[0]?.message ?? '',
			errors: this.faults
		};
	}
}
