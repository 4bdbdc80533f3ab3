/** What was typed into a form that was refused, by the names of its fields. */
export const typedBefore = (form: object | null): Record<string, unknown> =>
	form && 'typed' in form && form.typed && typeof form.typed === 'object' ? { ...form.typed } : {};
