// Numbered files that are brought in together are one sequence.
import { zip } from 'fflate';

const NUMBERED = /\.(obj|ply|stl|csv|png|exr|jpe?g|webp|tiff?|dpx)$/i;

/** Several numbered files of one name become one sequence; the others stay as they are. */
export async function gathered(files: readonly File[]): Promise<File[]> {
  const groups = new Map<string, File[]>();
  for (const file of files) {
    const stem = NUMBERED.test(file.name) ? file.name.replace(/\d+(?=\D*\.[^.]+$)/, '#') : file.name;
    groups.set(stem, [...(groups.get(stem) ?? []), file]);
  }

  return Promise.all(
    [...groups].map(async ([stem, group]) => {
      if (group.length === 1) return group[0];
      const inside = await Promise.all(
        group.map(async (f) => [f.name, new Uint8Array(await f.arrayBuffer())] as const),
      );
      const packed = await new Promise<Uint8Array>((done, fail) =>
        // the date of the archive says nothing, and the same files shall be the same content
        zip(Object.fromEntries(inside), { level: 1, mtime: '2000-01-01T00:00:00' }, (error, data) =>
          error ? fail(error) : done(data),
        ),
      );
      return new File(
        [packed as Uint8Array<ArrayBuffer>],
        `${stem.replace(/[._-]*#[._-]*/, '.').replace(/\.[^.]+$/, '')}.zip`,
      );
    }),
  );
}
