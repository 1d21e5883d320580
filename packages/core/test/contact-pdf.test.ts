// A contact sheet as a page: its size, its words, its picture.
import { inflateSync } from 'node:zlib';
import { contactPdf } from '@bramblemist/core/io/node/contact-pdf';
import { encodePng } from '@bramblemist/core/io/node/png';

const rgba = new Float32Array(4 * 40 * 20).fill(0.5);
const sheet = encodePng({ width: 40, height: 20, rgba });

/** The file as text, and all that its page draws, unpacked. */
function read(bytes: Uint8Array): { file: string; drawn: string } {
  const file = Buffer.from(bytes).toString('latin1');
  const streams = [...file.matchAll(/stream\r?\n([\s\S]*?)\r?\nendstream/g)].map(([, data]) => {
    try {
      return inflateSync(Buffer.from(data, 'latin1')).toString('latin1');
    } catch {
      return '';
    }
  });
  return { file, drawn: streams.filter((s) => / (cm|Tf)\b/.test(s)).join('\n') };
}

const pageOf = (file: string): number[] => /\/MediaBox \[([^\]]+)\]/.exec(file)![1].split(' ').map(Number);

test('one page, as high as the sheet needs, with the picture and two lines', async () => {
  const { file, drawn } = read(
    await contactPdf(sheet, { title: 'Weir at dawn, version 3', about: 'The Heron Mill' }),
  );
  expect(file.startsWith('%PDF-1.')).toBe(true);
  expect(file.match(/\/Type \/Page\b/g)).toHaveLength(1);
  expect(file).toContain('/Title ');
  expect(pageOf(file)).toEqual([0, 0, 842, (842 - 56) / 2 + 18 + 12 + 10 + 12 + 56]);
  expect(file.match(/\/Subtype \/Image/g)!.length).toBeGreaterThan(0);
  expect(drawn.match(/\bBT\b/g)).toHaveLength(2);
  expect(drawn.match(/\/I\d+ Do\b/g)).toHaveLength(1);
});

test('without words there is the sheet alone; a long line stays one line', async () => {
  const bare = read(await contactPdf(sheet, { title: '', about: '' }));
  expect(pageOf(bare.file)).toEqual([0, 0, 842, (842 - 56) / 2 + 56]);
  expect(bare.drawn).not.toMatch(/\bBT\b/);
  const long = read(
    await contactPdf(sheet, { title: 'Weißer Nebel über der Mühle, '.repeat(40), about: '' }),
  );
  expect(long.file.match(/\/Type \/Page\b/g)).toHaveLength(1);
  expect(long.drawn.match(/\bBT\b/g)).toHaveLength(1);
});
