import { documentLists } from './document/list.ts';
import { labelList } from './labels/list.ts';
import { eventList } from './ledger/list.ts';
import { movedList } from './ledger/moved.ts';
import type { ListSource } from './list/source.ts';
import { mailList, mailboxList } from './mail/list.ts';
import { drawnList, patternList } from './numbering/list.ts';
import { invoiceList } from './document/invoices.ts';
import { pairingList } from './pairing/list.ts';
import { accessList, peopleList } from './people/list.ts';
import { registerList } from './register/list.ts';
import {
	factList,
	itemList,
	jobList,
	kindList,
	partnerList,
	placeList,
	reasonList,
	stationList,
	wayList
} from './setup/lists.ts';
import { adjustedList } from './stock/adjusted.ts';
import { stockList, totalList } from './stock/list.ts';

/** Every list there is, by its name. A new one is a source in its room and a row here. */
export const lists = new Map<string, ListSource>(
	[
		...documentLists,
		stockList,
		totalList,
		adjustedList,
		invoiceList,
		registerList,
		eventList,
		movedList,
		pairingList,
		labelList,
		mailList,
		mailboxList,
		itemList,
		kindList,
		factList,
		patternList,
		drawnList,
		partnerList,
		placeList,
		jobList,
		stationList,
		wayList,
		reasonList,
		peopleList,
		accessList
	].map((source) => [source.key, source])
);
