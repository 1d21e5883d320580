// What is said of things that fill the disk.
import type { StoredItem } from '@bramblemist/contracts/payloads/storage';

export const place = (i: StoredItem): string =>
  i.shotId === null ? 'of no shot alone' : `${i.production} / ${i.shotName}`;
