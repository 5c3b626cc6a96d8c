import { type RefObject, useEffect, useRef, useState } from "react";

/** The width and height of an element in pixels, as they are now. */
export function useSize(
  width: number,
  height: number,
): [RefObject<HTMLDivElement | null>, number, number] {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState([width, height] as const);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() =>
      setSize([element.clientWidth, element.clientHeight]),
    );
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [box, ...size];
}
