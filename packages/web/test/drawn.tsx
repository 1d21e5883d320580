// Draws parts of the page for tests, and stands in for what a browser has and jsdom does not.
import { render, type RenderResult } from '@testing-library/react';
import type { ReactNode } from 'react';
import { ThemeProvider } from 'styled-components';
import { dark } from '@bramblemist/web/app/theme';

Object.assign(globalThis, {
  // what is escaped here bears letters, digits and colons only
  CSS: { escape: (name: string) => name.replaceAll(':', '\\:') },
  ResizeObserver: class {
    observe(): void {}
    unobserve(): void {}
    disconnect(): void {}
  },
});
Object.assign(window.HTMLElement.prototype, { setPointerCapture() {}, scrollIntoView() {} });

/** jsdom knows no pointers: the mouse's events with their names do. */
export function pointer(on: Element, type: string, at: { x: number; y?: number; shiftKey?: boolean }): void {
  const { x, y = 0, shiftKey = false } = at;
  const init = { bubbles: true, cancelable: true, clientX: x, clientY: y, buttons: 1, shiftKey };
  on.dispatchEvent(new MouseEvent(`pointer${type}`, init));
}

export const drawn = (part: ReactNode): RenderResult =>
  render(part, { wrapper: ({ children }) => <ThemeProvider theme={dark}>{children}</ThemeProvider> });
