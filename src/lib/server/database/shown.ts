/** The text of a quantity inside a statement, grouped, with the firm's decimal sign, which the whole statement reads once. */
export const shownQty = (qty: string) => `shown_qty(${qty}, (SELECT decimal_sign FROM firm))`;

/** The same with its unit: "4 pcs", "1,250.5 kg". */
export const shownAmount = (qty: string, unit: string) =>
	`${shownQty(qty)} || CASE ${unit} WHEN 'each' THEN ' pcs' ELSE ' ' || ${unit} END`;
