// `contact`: frames of a folder's numbered pictures in one picture.
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { contactPdf } from '@bramblemist/core/io/node/contact-pdf';
import { writeWhole } from '@bramblemist/core/io/node/files';
import { CONTACT_SHEET, writeContactSheet } from '@bramblemist/core/io/node/contact-sheet';
import { UsageError } from '../failure';
import { pick } from '../render-world';

export interface ContactArguments {
  out: string;
  title?: string;
  about?: string;
  frames?: string;
  columns: string;
  most: string;
  json?: boolean;
}

export async function contactCommand(folder: string, args: ContactArguments): Promise<void> {
  const isPdf = args.out.toLowerCase().endsWith('.pdf');
  if (!isPdf && !args.out.toLowerCase().endsWith('.png'))
    throw new UsageError('--out must end in .png or .pdf.');
  const count = (name: 'columns' | 'most', greatest: number): number => {
    const n = Number(args[name]);
    if (Number.isInteger(n) && n >= 1 && n <= greatest) return n;
    throw new UsageError(`--${name} must be a whole number from 1 to ${greatest}, not “${args[name]}”.`);
  };

  const settings = { ...CONTACT_SHEET, columns: count('columns', 20), most: count('most', 400) };
  // PNGs are read sooner and look the same on it
  const extension = readdirSync(folder).some((name) => /\.\d+\.png$/.test(name)) ? 'png' : 'exr';
  const frames = pick(folder, extension, args.frames);
  const png = isPdf ? `${args.out}.part-${process.pid}.png` : args.out;
  let pictures: number;
  try {
    pictures = await writeContactSheet(frames, png, settings);
    if (isPdf)
      writeWhole(
        args.out,
        await contactPdf(readFileSync(png), { title: args.title ?? '', about: args.about ?? '' }),
      );
  } finally {
    if (isPdf) rmSync(png, { force: true });
  }

  process.stdout.write(
    args.json ? `${JSON.stringify({ out: args.out, pictures })}\n` : `${pictures} pictures in ${args.out}.\n`,
  );
}
