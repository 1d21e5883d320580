// Every experiment, in the order of the report.
import { advection } from './advection';
import { fitting, roughToFinal, sameness, shots } from './course';
import { finer } from './finer';
import { lid, quiet, vortex } from './flows';
import { makingWay } from './making-way';
import { plume, puff } from './plumes';
import { settling } from './settling';
import { rings } from './rings';
import { mass, pressure, slopes } from './solids';
import type { Experiment, Figure } from './kit';

export const EXPERIMENTS: Readonly<Record<string, Experiment>> = {
  advection,
  finer,
  vortex,
  rings,
  lid,
  pressure,
  slopes,
  mass,
  makingWay,
  settling,
  puff,
  plume,
  roughToFinal,
  shots,
  fitting,
  quiet,
  sameness,
};

export function isWithin({ value, least, most }: Figure): boolean {
  return (
    Number.isFinite(value) && (least === undefined || value >= least) && (most === undefined || value <= most)
  );
}
