import { useEffect, useRef } from "react";

interface Heard {
  /** The events that are meant. */
  kind: string;
  /** ms: so often at the most is what it tells asked for, however often it speaks. */
  every: number;
  /** Asks for what has become of it. */
  ask: () => void;
  /** It was lost, or has ended: the browser takes it up again unless it is closed. */
  lost: (stream: EventSource) => void;
  /** It speaks. */
  found?: () => void;
}

/** Listens to a stream of the server while there is an address for it. */
export function useStream(url: string | null, heard: Heard) {
  const now = useRef(heard);
  now.current = heard;
  const { kind, every } = heard;
  useEffect(() => {
    if (url === null) return;
    let stream: EventSource | undefined;
    let last = Number.NEGATIVE_INFINITY;
    let late: number | undefined;
    const ask = () => {
      last = performance.now();
      late = undefined;
      now.current.ask();
    };
    const open = () => {
      const opened = new EventSource(url);
      opened.addEventListener(kind, () => {
        now.current.found?.();
        if (late === undefined) late = window.setTimeout(ask, Math.max(0, every - (performance.now() - last)));
      });
      opened.onerror = () => now.current.lost(opened);
      stream = opened;
    };
    // A page that the browser keeps for going back to would hold its stream, of which there are six at the most.
    const hidden = () => stream?.close();
    const shown = (event: PageTransitionEvent) => event.persisted && open();
    window.addEventListener("pagehide", hidden);
    window.addEventListener("pageshow", shown);
    open();
    return () => {
      window.clearTimeout(late);
      window.removeEventListener("pagehide", hidden);
      window.removeEventListener("pageshow", shown);
      stream?.close();
    };
  }, [url, kind, every]);
}
