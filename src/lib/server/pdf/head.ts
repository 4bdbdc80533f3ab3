import type { Content } from 'pdfmake/interfaces';
import { grouped } from '../../core/quantity/sign.ts';
import { headText } from '../ledger/paper.ts';
import type { PaperHead } from '../ledger/seal.ts';

/** The head of the ledger as papers carry it: what proves later that the ledger still holds what the paper says. */
export const headOf = (head: PaperHead): Content => ({
	columns: [
		{ qr: headText(head), fit: 84, width: 92 },
		{
			stack: [
				{ text: 'Head of the ledger when this was printed', style: 'soft' },
				{
					text: [
						`${grouped(String(head.size))} entries, root `,
						{ text: head.root.slice(0, 16), font: 'Mono', fontSize: 9 }
					]
				},
				{
					text: 'Whoever keeps this paper can prove that nothing before it was changed: the code holds the whole.',
					style: 'soft'
				}
			],
			margin: [0, 24, 0, 0]
		}
	],
	unbreakable: true,
	margin: [0, 18, 0, 0]
});
