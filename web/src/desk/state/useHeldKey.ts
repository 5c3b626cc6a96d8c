import { useEffect } from "react";

/** Whether a key is held, outside of fields. */
export function useHeldKey(name: string, onHeld: (held: boolean) => void) {
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof HTMLInputElement ||
        event.target instanceof HTMLTextAreaElement ||
        event.target instanceof HTMLSelectElement;
      if (
        event.key.toLowerCase() === name &&
        !typing &&
        !event.ctrlKey &&
        !event.metaKey &&
        !event.repeat
      )
        onHeld(event.type === "keydown");
    };
    const off = () => onHeld(false);
    window.addEventListener("keydown", key);
    window.addEventListener("keyup", key);
    window.addEventListener("blur", off);
    return () => {
      window.removeEventListener("keydown", key);
      window.removeEventListener("keyup", key);
      window.removeEventListener("blur", off);
    };
  }, [name, onHeld]);
}
