/** The size of a plot's box, followed as the page changes. */
import { type RefObject, useEffect, useRef, useState } from "react";

interface Size {
  width: number;
  height: number;
}

export function useSize(first: Size): [RefObject<HTMLDivElement | null>, Size] {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState(first);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setSize({ width: entry.contentRect.width, height: entry.contentRect.height }));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [box, size];
}
