// Colours, type and rhythm; two themes, dark by default.
export interface Theme {
  /** Which of a browser's own controls fit. */
  readonly scheme: 'dark' | 'light';
  readonly ground: string;
  readonly panel: string;
  readonly raised: string;
  readonly line: string;
  readonly text: string;
  readonly quiet: string;
  /** Selected or primary. */
  readonly thorn: string;
  readonly onThorn: string;
  /** Current and well. */
  readonly lichen: string;
  /** Out of date. */
  readonly straw: string;
  /** Trouble. */
  readonly rust: string;
  readonly surround: string;
  readonly sans: string;
  readonly serif: string;
}
const type = {
  sans: "'Hanken Grotesk Variable', system-ui, sans-serif",
  serif: "'Newsreader Variable', Georgia, serif",
};
export const dark: Theme = {
  scheme: 'dark',
  ground: '#181017',
  panel: '#1f161f',
  raised: '#2b202b',
  line: '#40313f',
  text: '#ebe4e8',
  quiet: '#a99ba6',
  thorn: '#c58bdb',
  onThorn: '#1d0f22',
  lichen: '#a9c58c',
  straw: '#e6c45c',
  rust: '#e98661',
  surround: '#3c3c3d',
  ...type,
};
export const light: Theme = {
  scheme: 'light',
  ground: '#efe9ec',
  panel: '#f8f4f6',
  raised: '#e6dce3',
  line: '#cdbfca',
  text: '#2a1c2a',
  quiet: '#6b5a69',
  thorn: '#7a3596',
  onThorn: '#ffffff',
  lichen: '#45651f',
  straw: '#7c5a00',
  rust: '#a63f16',
  surround: '#8a8a8b',
  ...type,
};
declare module 'styled-components' {
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type
  export interface DefaultTheme extends Theme {}
}
