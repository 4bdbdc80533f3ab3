import type { Kind } from '../core/document/kinds.ts';
import { enterPallet } from './inbound/notice.ts';
import { buildDelivery } from './inbound/build.ts';
import { returns } from './inbound/returns.ts';
import { shipments } from './outbound/build.ts';
import { counterSales } from './outbound/counter.ts';
import { sendBacks } from './outbound/sendback.ts';
import { begun, buildProduction } from './production/build.ts';
import type { Builder, Built } from './sheet/build.ts';
import { buildPutIn, removals } from './stock/adjust.ts';
import { buildIssue } from './stock/issue.ts';
import { buildNumbering } from './stock/number.ts';
import { buildRepack } from './stock/repack.ts';
import { transfers } from './stock/transfer.ts';

/** A count has no sheet: what was counted is kept as it is counted. */
const NOTHING: Built = { lines: [], said: [], kind: 'count', runs: [], moves: [], enough: false, used: [] };

/** Who builds the sheet of each kind of document. */
export const builders: Record<Kind, Builder> = {
	purchase: { build: buildDelivery, enterPallet },
	production: { build: buildProduction, begun },
	sale: shipments,
	counter: counterSales,
	issue: { build: buildIssue },
	repack: { build: buildRepack },
	transfer: transfers,
	return: returns,
	'supplier-return': sendBacks,
	count: { build: async () => NOTHING },
	numbering: { build: buildNumbering },
	'adjust-in': { build: buildPutIn },
	'adjust-out': removals
};
