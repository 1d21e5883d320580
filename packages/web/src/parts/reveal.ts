// Brings a part of the page into view by its id, or its key where it stands once.

/** The attribute that an ingredient carries. */
export const PART = 'data-part';

export function reveal(part: string): void {
  // a change of what is chosen may have to be drawn first
  requestAnimationFrame(() => {
    const found = document.querySelector<HTMLElement>(`[${PART}="${CSS.escape(part)}"]`);
    void found?.scrollIntoView({ block: 'center' });
    found?.querySelector<HTMLElement>('button, [tabindex="0"]')?.focus({ preventScroll: true });
  });
}
