// Looking at a picture in a window: as large as fits, or zoomed and moved; places on the screen and in the
// picture.
import { useEffect, useRef, useState, type RefObject, type WheelEvent } from 'react';

interface View {
  /** Screen pixels a picture pixel; 0: as large as fits. */
  readonly zoom: number;
  readonly x: number;
  readonly y: number;
}
const FIT: View = { zoom: 0, x: 0, y: 0 };
const ZOOMS = { least: 0.05, most: 16 } as const;

export interface Place {
  readonly x: number;
  readonly y: number;
}

export interface PanZoom {
  readonly stage: RefObject<HTMLDivElement | null>;
  /** Of the window, pixels; 0 before it is there. */
  readonly room: { readonly width: number; readonly height: number };
  /** Screen pixels a picture pixel. */
  readonly zoom: number;
  readonly view: View;
  /** Place in the picture's pixels of something on the screen. */
  readonly placeOf: (e: { readonly clientX: number; readonly clientY: number }) => Place;
  /** Place in the window of one in the picture. */
  readonly toScreen: (x: number, y: number) => Place;
  readonly onWheel: (e: WheelEvent) => void;
  /** Moves it to where it was, and so many screen pixels on. */
  readonly moveFrom: (from: View, dx: number, dy: number) => void;
  readonly fit: () => void;
  /** So many screen pixels a picture pixel, from the middle. */
  readonly zoomTo: (zoom: number) => void;
}

/** @param squeeze width of the picture's pixels over their height */
export function usePanZoom(width: number, height: number, squeeze: number): PanZoom {
  const stage = useRef<HTMLDivElement>(null);
  const [view, setView] = useState(FIT);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setRoom(entry.contentRect));
    observer.observe(stage.current!);
    return () => observer.disconnect();
  }, []);
  const fits = Math.min(room.width / width / squeeze, room.height / height);
  const zoom = view.zoom || fits;
  /** From the window's middle. */
  const fromMiddle = (e: { clientX: number; clientY: number }): Place => {
    const box = stage.current!.getBoundingClientRect();
    return { x: e.clientX - box.left - box.width / 2, y: e.clientY - box.top - box.height / 2 };
  };

  return {
    stage,
    room,
    zoom,
    view,
    placeOf: (e) => {
      const at = fromMiddle(e);
      return {
        x: (at.x - view.x) / zoom / squeeze + width / 2,
        y: (at.y - view.y) / zoom + height / 2,
      };
    },
    toScreen: (x, y) => ({
      x: room.width / 2 + view.x + (x - width / 2) * zoom * squeeze,
      y: room.height / 2 + view.y + (y - height / 2) * zoom,
    }),
    onWheel: (e) => {
      const to = Math.min(ZOOMS.most, Math.max(ZOOMS.least, zoom * 1.2 ** (-e.deltaY / 100)));
      const at = fromMiddle(e);
      // what is under the pointer stays there
      setView({ zoom: to, x: at.x - ((at.x - view.x) * to) / zoom, y: at.y - ((at.y - view.y) * to) / zoom });
    },
    moveFrom: (from, dx, dy) => setView({ zoom, x: from.x + dx, y: from.y + dy }),
    fit: () => setView(FIT),
    zoomTo: (to) => setView({ zoom: to, x: 0, y: 0 }),
  };
}
