import type { ReasonAct } from '../../core/document/kinds.ts';
import type { Db } from '../database/connect.ts';

/** The open reasons for some acts, for documents to choose from. */
export const openReasons = (sql: Db, acts: readonly ReasonAct[]) => sql<{ name: string; act: ReasonAct }[]>`
	SELECT name, act FROM reason WHERE closed_on IS NULL AND act = ANY(${[...acts]}) ORDER BY act DESC, name`;
