// What people read: never a path of this machine, names short enough for a column.

/** A message with the names of files only, where it has whole paths of this machine. */
export const withoutPaths = (text: string): string =>
  text.replace(/(?<![\w.:/])\/(?:[^\s/:;,“”"'()]+\/)+([^\s/:;,“”"'()]*)/g, '$1');

/** A file's name of at most so many characters; its ending stays. */
export function shortName(name: string, most: number): string {
  const letters = [...name];
  if (letters.length <= most) return name;
  const ending = [...(/\.[A-Za-z0-9]{1,8}$/.exec(name)?.[0] ?? '')];
  return [...letters.slice(0, most - ending.length), ...ending].join('');
}
