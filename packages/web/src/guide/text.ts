import guide from '../../../../docs/guide.md?raw';
import { chaptersOf } from './read';

export const GUIDE = chaptersOf(guide);
