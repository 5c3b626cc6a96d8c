import { useState } from "react";

import type { Machine } from "../api/client";

const KINDS = [
  ["none", "files are carried by hand"],
  ["printer", "a printer on the network"],
  ["folder", "a folder or a removable drive"],
] as const;

/** How jobs get to a machine. */
export function Connection({
  machine,
  onConnection,
}: {
  machine: Machine;
  onConnection: (connection: NonNullable<Machine["connection"]>) => void;
}) {
  const now = machine.connection ?? { kind: "none" };
  const [kind, setKind] = useState<(typeof KINDS)[number][0]>(now.kind);
  const [where, setWhere] = useState(now.address ?? now.folder ?? "");
  const keep = () =>
    onConnection(
      kind === "printer"
        ? { kind, address: where }
        : kind === "folder"
          ? { kind, folder: where }
          : { kind: "none" },
    );
  const same =
    kind === now.kind && (kind === "none" || where === (now.address ?? now.folder ?? ""));
  return (
    <form
      className="flex flex-wrap items-center gap-2 text-[13px]"
      aria-label="Connection"
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      jobs get to it as
      <select
        className="field"
        aria-label="Kind of connection"
        value={kind}
        onChange={(event) => setKind(event.target.value as typeof kind)}
      >
        {KINDS.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      {kind !== "none" && (
        <input
          className="field w-72"
          aria-label={kind === "printer" ? "Address of the printer" : "Folder"}
          placeholder={kind === "printer" ? "http://name:port" : "/media/drive"}
          value={where}
          onChange={(event) => setWhere(event.target.value)}
        />
      )}
      <button className="quiet" disabled={same}>
        Keep
      </button>
    </form>
  );
}
