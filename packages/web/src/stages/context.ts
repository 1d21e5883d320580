// What every stage gets from the shot's page.
import type { BakeInfo } from '@bramblemist/contracts/payloads/made';
import type { ShotInfo, VariantInfo } from '@bramblemist/contracts/payloads/shot';
import type { Documents } from '../data/bench';

export interface StageProps {
  readonly shot: ShotInfo;
  readonly variant: VariantInfo;
  readonly documents: Documents;
  /** The bake that is looked at; null before the first. */
  readonly bake: BakeInfo | null;
  readonly chooseBake: (id: number) => void;
}
export const STAGES = [
  { key: 'set-up', label: 'Set up' },
  { key: 'run', label: 'Run' },
  { key: 'light', label: 'Light' },
  { key: 'combine', label: 'Combine' },
  { key: 'hand-over', label: 'Hand over' },
] as const;
export type StageKey = (typeof STAGES)[number]['key'];
