import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { refusalOf } from "../api/client";

/** Files that go into one archive at most. */
const MOST = 200;

/** Fetches an archive and saves it; what it is at, a way to stop it, and what stood in the way. */
export function FilesButton({
  address,
  name,
  count,
}: {
  address: string;
  /** What the archive is saved as. */
  name: string;
  count: number;
}) {
  const leave = useRef<AbortController | null>(null);
  useEffect(() => () => leave.current?.abort(), []);
  const save = useMutation({
    mutationFn: async () => {
      leave.current = new AbortController();
      const response = await fetch(address, { signal: leave.current.signal });
      if (!response.ok) throw await refusalOf(response);
      const there = URL.createObjectURL(await response.blob());
      const link = document.createElement("a");
      link.href = there;
      link.download = name;
      link.click();
      // the browser has taken it up by then
      window.setTimeout(() => URL.revokeObjectURL(there), 60_000);
    },
  });
  if (save.isPending)
    return (
      <span role="status" className="text-[13px] text-ink-2">
        packing {count === 1 ? "1 file" : `${count} files`} …{" "}
        <button className="word" onClick={() => leave.current?.abort()}>
          stop
        </button>
      </span>
    );
  const stopped = save.error instanceof DOMException && save.error.name === "AbortError";
  return (
    <>
      <button
        className="quiet min-h-8"
        disabled={count > MOST}
        title={count > MOST ? `at most ${MOST} at once` : undefined}
        onClick={() => save.mutate()}
      >
        As files
      </button>
      {save.error && !stopped && (
        <span role="alert" className="text-[13px] text-stop">
          {save.error.message}
        </span>
      )}
    </>
  );
}
