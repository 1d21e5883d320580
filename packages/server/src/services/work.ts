// Beginning a piece of work: the row of what it makes and the job that makes it are both there, or neither.
import type { Transaction } from 'sequelize';
import type { JobKind } from '@bramblemist/contracts/payloads/jobs';
import type { JobEngine } from '../jobs/engine';
import { inTransaction } from './documents';

/** @param frames how many the job counts; @param make the row, in the transaction that it is given */
export function begin(
  engine: JobEngine,
  kind: JobKind,
  shotId: number,
  frames: number,
  make: (transaction: Transaction) => Promise<{ id: number }>,
): Promise<{ id: number }> {
  return inTransaction(async (transaction) => {
    const { id } = await make(transaction);
    await engine.enqueue(kind, id, shotId, frames, transaction);
    return { id };
  });
}
