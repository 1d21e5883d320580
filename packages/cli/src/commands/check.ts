import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import type { InTime } from '@bramblemist/core/assets/import-asset';
import { checkFile } from '@bramblemist/core/io/node/check-file';
import { UsageError } from '../failure';

export interface CheckArguments {
  name?: string;
  json?: boolean;
}

/** Looks a file over that is to be used in a recipe. */
export async function checkCommand(path: string, args: CheckArguments): Promise<void> {
  const name = args.name ?? basename(path);
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file.`);
  let report: object;
  try {
    report = await checkFile(path, name);
  } catch (error) {
    throw new UsageError(`${name}: ${(error as Error).message}`);
  }

  if (args.json) return void console.log(JSON.stringify(report));
  const said = (value: unknown): string => {
    if (Array.isArray(value) && value.length === 0) return 'none';
    if (Array.isArray(value) && value.every((v) => typeof v === 'number'))
      return value.map((v: number) => v.toPrecision(4)).join(' × ');
    if (Array.isArray(value))
      return value.map((v: string | { name: string }) => (typeof v === 'string' ? v : v.name)).join('; ');
    if (value === null) return 'still';
    if (typeof value !== 'object') return String(value);
    const { unit, first, last, keepsShape } = value as InTime;
    return `${unit} ${first}–${last}${keepsShape ? '' : ', its faces change'}`;
  };

  for (const [key, value] of Object.entries(report)) console.log(`${key.padEnd(13)} ${said(value)}`);
}
