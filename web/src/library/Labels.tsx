import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Part } from "../api/client";

/** The labels of a part; more are typed, one is taken off by its cross. */
export function Labels({ part }: { part: Part }) {
  const client = useQueryClient();
  const [typing, setTyping] = useState<string | null>(null);
  const own = part.labels ?? [];
  const keep = useMutation({
    mutationFn: (labels: string[]) =>
      data(
        api.PATCH("/api/parts/{id}", { params: { path: { id: part.id } }, body: { labels } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["parts"] }),
  });
  const add = () => {
    const word = typing?.trim().slice(0, 60);
    if (word && !own.includes(word)) keep.mutate([...own, word]);
    setTyping(null);
  };
  return (
    <div className="flex flex-wrap items-center gap-1 text-[12px]">
      {own.map((label) => (
        <span key={label} className="border border-edge px-1" data-label={label}>
          {label}{" "}
          <button
            className="cursor-pointer border-0 bg-transparent p-0 text-ink-2"
            aria-label={`Take ${label} off ${part.name}`}
            onClick={() => keep.mutate(own.filter((other) => other !== label))}
          >
            ×
          </button>
        </span>
      ))}
      {typing === null ? (
        <button
          className="quiet text-[12px]"
          aria-label={`Label ${part.name}`}
          onClick={() => setTyping("")}
        >
          + label
        </button>
      ) : (
        <input
          className="field w-24"
          aria-label={`New label of ${part.name}`}
          autoFocus
          value={typing}
          onChange={(event) => setTyping(event.target.value)}
          onBlur={add}
          onKeyDown={(event) => {
            if (event.key === "Enter") add();
            if (event.key === "Escape") setTyping(null);
          }}
        />
      )}
    </div>
  );
}
