/** A mark's quality status, from the best to the worst. */
export const STATUSES = ['released', 'quarantine', 'held', 'rejected'] as const;
/** Whether something may be taken, and why not. */
export type Status = (typeof STATUSES)[number];

/** What each act makes of a status. */
export const STATUS_ACTS = { hold: 'held', quarantine: 'quarantine', release: 'released', reject: 'rejected' } as const;
/** What a person does to a status. */
export type StatusAct = keyof typeof STATUS_ACTS;

/** What is in force for a serial: the worse of its own status and its lot's. */
export const worse = (own: Status, lots: Status | null | undefined): Status =>
	lots && STATUSES.indexOf(lots) > STATUSES.indexOf(own) ? lots : own;

/** As people say it: "on hold". */
export const sayStatus = (status: string): string =>
	({ held: 'on hold', quarantine: 'in quarantine' })[status] ?? status;
