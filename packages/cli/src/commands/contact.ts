// `contact`: frames of a folder's numbered pictures in one picture.
import { readdirSync } from 'node:fs';
import { CONTACT_SHEET, writeContactSheet } from '@bramblemist/core/io/node/contact-sheet';
import { UsageError } from '../failure';
import { pick } from '../render-world';

export interface ContactArguments {
  out: string;
  frames?: string;
  columns: string;
  most: string;
  json?: boolean;
}

export async function contactCommand(folder: string, args: ContactArguments): Promise<void> {
  if (!args.out.toLowerCase().endsWith('.png')) throw new UsageError('--out must end in .png.');
  const count = (name: 'columns' | 'most', greatest: number): number => {
    const n = Number(args[name]);
    if (Number.isInteger(n) && n >= 1 && n <= greatest) return n;
    throw new UsageError(`--${name} must be a whole number from 1 to ${greatest}, not “${args[name]}”.`);
  };

  const settings = { ...CONTACT_SHEET, columns: count('columns', 20), most: count('most', 400) };
  // PNGs are read sooner and look the same on it
  const extension = readdirSync(folder).some((name) => /\.\d+\.png$/.test(name)) ? 'png' : 'exr';
  const pictures = await writeContactSheet(pick(folder, extension, args.frames), args.out, settings);
  process.stdout.write(
    args.json ? `${JSON.stringify({ out: args.out, pictures })}\n` : `${pictures} pictures in ${args.out}.\n`,
  );
}
