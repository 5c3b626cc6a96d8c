import { useMutation } from "@tanstack/react-query";
import { clsx } from "clsx";
import { type ReactNode, useState } from "react";

interface Entry {
  id: number;
  name: string;
  /** What tells it from the others. */
  words: string;
}

/** Things of the workshop at the left, the chosen one beside them, and a way to make another. */
export function Chooser({
  title,
  kind,
  entries,
  chosen,
  onChoose,
  make,
  children,
}: {
  title: string;
  /** What one of them is called. */
  kind: string;
  entries: Entry[];
  chosen: number | undefined;
  onChoose: (id: number) => void;
  /** Makes one of a name; its id, once the list has it. */
  make: (name: string) => Promise<number>;
  children: ReactNode;
}) {
  return (
    <div className="grid grid-cols-[200px_minmax(0,1fr)] items-start gap-4">
      <section aria-label={title} className="card flex flex-col p-2">
        <h2 className="mb-1 px-1 text-lg font-semibold">{title}</h2>
        {entries.map((entry) => (
          <button
            key={entry.id}
            aria-pressed={entry.id === chosen}
            className={clsx(
              "border-0 border-l-[3px] px-2 py-2 text-left",
              entry.id === chosen
                ? "border-north bg-paper font-semibold"
                : "border-transparent bg-transparent hover:bg-paper",
            )}
            onClick={() => onChoose(entry.id)}
          >
            {entry.name}
            <span className="narrow block text-[12px] font-normal text-ink-2">
              {entry.words}
            </span>
          </button>
        ))}
        <MakeOne kind={kind} make={make} onMade={onChoose} />
      </section>
      {children}
    </div>
  );
}

function MakeOne({
  kind,
  make,
  onMade,
}: {
  kind: string;
  make: (name: string) => Promise<number>;
  onMade: (id: number) => void;
}) {
  const [name, setName] = useState<string | null>(null);
  const making = useMutation({
    mutationFn: make,
    onSuccess: (id) => {
      setName(null);
      onMade(id);
    },
  });
  if (name === null)
    return (
      <button className="quiet mt-2" onClick={() => setName("")}>
        + {kind}
      </button>
    );
  const wanted = name.trim();
  return (
    <form
      className="mt-2 flex flex-col gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (wanted) making.mutate(wanted);
      }}
    >
      <input
        className="field"
        aria-label={`Name of the new ${kind}`}
        autoFocus
        maxLength={80}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <span className="flex gap-1">
        <button className="quiet" disabled={!wanted || making.isPending}>
          Make it
        </button>
        <button type="button" className="quiet" onClick={() => setName(null)}>
          Not now
        </button>
      </span>
      {making.error && (
        <span role="alert" className="text-[13px] text-stop">
          {making.error.message}
        </span>
      )}
    </form>
  );
}
