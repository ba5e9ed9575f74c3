/** The size of a plot's box, followed as the page changes. */
import { type RefObject, useLayoutEffect, useRef, useState } from "react";

interface Size {
  width: number;
  height: number;
}

export function useSize(first: Size): [RefObject<HTMLDivElement | null>, Size] {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState(first);
  // Measured before the first painting: a plot drawn at a guessed size would reach past its box and make the page scroll.
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = ({ width, height }: Size) =>
      setSize((now) => (now.width === width && now.height === height ? now : { width, height }));
    measure({ width: element.clientWidth, height: element.clientHeight });
    const watch = new ResizeObserver(([entry]) => entry && measure(entry.contentRect));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [box, size];
}
