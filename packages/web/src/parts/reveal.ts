// Which parts of the page are unfolded, and bringing one into view by its id, or its key where it stands
// once.
import { shotStore } from '../data/shot-store';

/** The attribute that an ingredient carries. */
export const PART = 'data-part';

/** Pixels: more than half of a small page. */
const LONG = 240;

export const useOpened = shotStore<{ readonly parts: ReadonlySet<string> }>(() => ({ parts: new Set() }), {
  returns: true,
});
export function setOpened(part: string, open: boolean): void {
  const parts = new Set(useOpened.getState().parts);
  if (open) parts.add(part);
  else parts.delete(part);
  useOpened.setState({ parts });
}

/** Frames for which a part is waited for: the page that it stands on may still be on its way. */
const PATIENCE = 120;

export function reveal(part: string): void {
  setOpened(part, true);
  const look = (left: number): void => {
    const found = document.querySelector<HTMLElement>(`[${PART}="${CSS.escape(part)}"]`);
    if (!found) {
      if (left > 0) requestAnimationFrame(() => look(left - 1));
      return;
    }

    // of a long part its sentence, at the top, is what is wanted
    void found.scrollIntoView({ block: found.offsetHeight > LONG ? 'start' : 'center' });
    found.querySelector<HTMLElement>('button, [tabindex="0"]')?.focus({ preventScroll: true });
  };

  // what was unfolded has to be drawn first
  requestAnimationFrame(() => requestAnimationFrame(() => look(PATIENCE)));
}
