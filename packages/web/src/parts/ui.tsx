// Small shared pieces of the interface.
import type { ReactNode } from 'react';
import { Button as AriaButton, MenuItem, type ButtonProps } from 'react-aria-components';
import styled, { css } from 'styled-components';

export const Heading = styled.h2`
  font: italic 17px/1.2 ${({ theme }) => theme.serif};
  color: ${({ theme }) => theme.thorn};
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  flex-wrap: wrap;
  gap: 4px 8px;
  margin-bottom: 8px;
  > small {
    font: 12px ${({ theme }) => theme.sans};
    color: ${({ theme }) => theme.quiet};
  }
`;
export const Section = styled.section`
  padding: 14px 0 4px;
  &:first-child {
    padding-top: 0;
  }
`;
export const Quiet = styled.p`
  color: ${({ theme }) => theme.quiet};
`;
const buttonStyle = css`
  font: 13px/1.3 ${({ theme }) => theme.sans};
  display: inline-flex;
  align-items: center;
  gap: 6px;
  min-height: 28px;
  padding: 3px 12px;
  border-radius: 14px;
  border: 1px solid ${({ theme }) => theme.line};
  background: transparent;
  color: ${({ theme }) => theme.text};
  text-decoration: none;
  cursor: pointer;
  &[data-hovered],
  &:hover {
    background: ${({ theme }) => theme.raised};
  }
  &[data-disabled] {
    opacity: 0.45;
    cursor: default;
  }
`;
export const Button = styled(AriaButton)<ButtonProps>`
  ${buttonStyle}
`;
export const Primary = styled(AriaButton)<ButtonProps>`
  ${buttonStyle}
  background: ${({ theme }) => theme.thorn};
  border-color: ${({ theme }) => theme.thorn};
  color: ${({ theme }) => theme.onThorn};
  font-weight: 600;
  &[data-hovered],
  &:hover {
    background: ${({ theme }) => theme.thorn};
    filter: brightness(1.08);
  }
`;
export const LinkButton = styled.a`
  ${buttonStyle}
`;
/** An action that is seen as one without being the first: by its outline, or by its icon. */
export const plainStyle = css`
  font: 13px/1.3 ${({ theme }) => theme.sans};
  display: inline-flex;
  align-items: center;
  gap: 4px;
  min-height: 24px;
  padding: 1px 9px;
  border-radius: 12px;
  border: 1px solid ${({ theme }) => theme.line};
  background: none;
  color: ${({ theme }) => theme.text};
  text-decoration: none;
  white-space: nowrap;
  cursor: pointer;
  &[data-hovered],
  &:hover {
    background: ${({ theme }) => theme.raised};
  }
  &[data-disabled] {
    opacity: 0.4;
    cursor: default;
  }
  &[aria-pressed='true'] {
    border-color: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.thorn};
  }
  &:has(> svg:only-child) {
    border-color: transparent;
    padding: 1px 4px;
  }
`;
export const Plain = styled(AriaButton)<ButtonProps>`
  ${plainStyle}
`;

/** Where something is typed or picked in a form. */
export const fieldStyle = css`
  color: ${({ theme }) => theme.text};
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 6px;
  padding: 4px 10px;
  min-height: 28px;
  max-width: 100%;
`;
/** The same in a line of its own on the page. */
export const roundFieldStyle = css`
  ${fieldStyle}
  background: ${({ theme }) => theme.panel};
  border-radius: 14px;
`;

/** A line of a menu: a name and, quieter, a word on it. */
export const MenuLine = styled(MenuItem)`
  display: grid;
  padding: 4px 10px;
  border-radius: 4px;
  cursor: pointer;
  outline: none;
  span:last-child:not(:first-child) {
    color: ${({ theme }) => theme.quiet};
    font-size: 12px;
    line-height: 1.35;
  }
  &[data-focused] {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
    span:last-child:not(:first-child) {
      color: ${({ theme }) => theme.onThorn};
    }
  }
`;

/** A list that is unfolded over the page, and what is chosen in it. */
export const unfolded = css`
  background: ${({ theme }) => theme.raised};
  border: 1px solid ${({ theme }) => theme.line};
  border-radius: 6px;
  padding: 4px;
  box-shadow: 0 8px 24px #0008;
`;
export const chosenFrom = css`
  padding: 4px 10px;
  border-radius: 4px;
  cursor: pointer;
  outline: none;
  &[data-focused] {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
  }
`;

/** A page of tables, under the line across the top. */
export const TablePage = styled.main`
  height: calc(100% - 46px);
  overflow: auto;
  padding: 24px 32px;
  table {
    border-collapse: collapse;
    width: 100%;
    max-width: 1180px;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: ${({ theme }) => theme.quiet};
  }
  th,
  td {
    padding: 6px 14px 6px 0;
    border-bottom: 1px solid ${({ theme }) => theme.line};
    vertical-align: top;
  }
`;

const marks = { well: '●', stale: '◐', trouble: '▲', idle: '○', busy: '◌' } as const;
const MarkText = styled.span<{ $tone: 'lichen' | 'straw' | 'rust' | 'quiet' | 'thorn' }>`
  color: ${({ theme, $tone }) => theme[$tone]};
  white-space: nowrap;
`;
/** A state as a mark, a colour and a word. */
export function Mark({ state, children }: { state: keyof typeof marks; children: ReactNode }): ReactNode {
  const tone = ({ well: 'lichen', stale: 'straw', trouble: 'rust', idle: 'quiet', busy: 'thorn' } as const)[
    state
  ];
  return (
    <MarkText $tone={tone}>
      <span aria-hidden>{marks[state]}</span> {children}
    </MarkText>
  );
}

const Box = styled.div`
  border-left: 3px solid ${({ theme }) => theme.rust};
  background: ${({ theme }) => theme.raised};
  padding: 8px 12px;
  margin: 8px 0;
`;
export function Trouble({ children }: { children: ReactNode }): ReactNode {
  return <Box role="alert">{children}</Box>;
}

export const Bar = styled.div<{ $part: number }>`
  height: 5px;
  border-radius: 3px;
  background: ${({ theme }) => theme.raised};
  overflow: hidden;
  &::after {
    content: '';
    display: block;
    height: 100%;
    width: ${({ $part }) => Math.round($part * 100)}%;
    background: ${({ theme }) => theme.lichen};
  }
`;

export function bytes(n: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  let u = 0;
  let v = n;
  while (v >= 1000 && u < units.length - 1) {
    v /= 1000;
    u++;
  }

  return `${v < 10 && u > 0 ? v.toFixed(1) : Math.round(v)} ${units[u]}`;
}

export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}

/** Hands a text to the browser to keep as a file. */
export function keepAsFile(name: string, text: string, type: string): void {
  const url = URL.createObjectURL(new Blob([text], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  URL.revokeObjectURL(url);
}
