// Pictures that are brought together: those of a clip, by the number at the end of their names, or pictures
// alone.
export interface NamedPicture {
  readonly file: File;
  /** What the pictures of one clip share; empty for a picture alone. */
  readonly series: string;
  readonly frame: number | null;
}

/** weir.0012.png → weir and 12. */
export function numbered(name: string): { stem: string; frame: number } | null {
  const found = /^(.*?)[._\- ]*(\d{1,7})\.[a-z]+$/i.exec(name);
  return found ? { stem: found[1] || 'sequence', frame: Number(found[2]) } : null;
}

/** In the order of their numbers; several that share all but their number are one sequence. */
export function namesOf(files: readonly File[]): NamedPicture[] {
  const named = files.map((file) => ({ file, as: numbered(file.name) }));
  const many = (stem: string): boolean => named.filter((n) => n.as?.stem === stem).length > 1;
  return named
    .map(({ file, as }) =>
      as && many(as.stem) ? { file, series: as.stem, frame: as.frame } : { file, series: '', frame: null },
    )
    .sort((a, b) => a.series.localeCompare(b.series) || (a.frame ?? 0) - (b.frame ?? 0));
}
