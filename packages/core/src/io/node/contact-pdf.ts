// A contact sheet as a page to be sent or printed: a title, a line about it, and the sheet.
import { createRequire } from 'node:module';

/** Points: the long edge of a page of A4. */
const WIDE = 842;
const MARGIN = 28;
const TITLE = 18;
const LINE = 10;
const GAP = 12;
const FONT = '@fontsource/hanken-grotesk/files/hanken-grotesk-latin-400-normal.woff2';

/** What the package's types leave out. */
interface Opener {
  openImage(png: Buffer): PDFKit.Mixins.ImageSrc & { readonly width: number; readonly height: number };
}

/**
 * @param sheet a PNG
 * @returns one page, as high as the sheet needs
 */
export async function contactPdf(
  sheet: Uint8Array,
  { title, about }: { readonly title: string; readonly about: string },
): Promise<Uint8Array> {
  // it takes a tenth of a second to load, which no other command should wait for
  const { default: PDFDocument } = await import('pdfkit');
  const page = new PDFDocument({ autoFirstPage: false, info: { Title: title } });
  const picture = (page as unknown as Opener).openImage(Buffer.from(sheet));
  const wide = WIDE - 2 * MARGIN;
  const high = (wide * picture.height) / picture.width;
  const lines = [
    { text: title, size: TITLE, grey: '#1a1a1a' },
    { text: about, size: LINE, grey: '#666666' },
  ].filter(({ text }) => text !== '');
  const head = lines.reduce((sum, { size }) => sum + size + GAP, 0);
  page.addPage({ size: [WIDE, high + head + 2 * MARGIN], margin: 0 });
  const parts: Uint8Array[] = [];
  const done = new Promise<void>((end, fail) => {
    page.on('data', (part: Uint8Array) => parts.push(part));
    page.on('end', end);
    page.on('error', fail);
  });
  page.font(createRequire(__filename).resolve(FONT));
  let y = MARGIN;
  for (const { text, size, grey } of lines) {
    // a line that is too long ends with …
    const fits = { width: wide, height: size * 1.3, ellipsis: true };
    page.fontSize(size).fillColor(grey).text(text.replace(/\s+/g, ' '), MARGIN, y, fits);
    y += size + GAP;
  }

  page.image(picture, MARGIN, y, { width: wide, height: high });
  page.end();
  await done;
  return new Uint8Array(Buffer.concat(parts));
}
