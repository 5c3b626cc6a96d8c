import { useQuery } from "@tanstack/react-query";

import { api, data } from "../api/client";
import { textOf, when } from "../format";

/** Who changed what, newest first. */
export function Recorded() {
  const rows = useQuery({
    queryKey: ["record"],
    queryFn: () => data(api.GET("/api/record")),
  });
  return (
    <section className="card p-4" aria-labelledby="record-title">
      <h2 id="record-title" className="flex items-baseline gap-3 text-lg font-semibold">
        Record
        <a className="text-[13px] font-normal underline" href="/api/record/file" download>
          all of it as a table
        </a>
      </h2>
      {rows.error && (
        <p role="alert" className="text-stop">
          {rows.error.message}
        </p>
      )}
      {rows.data?.length === 0 && (
        <p className="text-[13px] text-ink-2">
          Changes of machines, materials, spools, jobs and people are listed here.
        </p>
      )}
      <div className="max-h-96 overflow-auto">
        <table className="w-full text-left text-[13px]">
          <tbody>
            {rows.data?.map((row) => (
              <tr key={row.id} className="border-t border-hairline align-top">
                <td className="w-40 py-1 whitespace-nowrap">{when(row.at)}</td>
                <td className="w-44 py-1">{row.who}</td>
                <td className="py-1">
                  {row.what}
                  {row.about && <b> {row.about}</b>}
                </td>
                <td className="narrow max-w-80 truncate py-1" title={JSON.stringify(row.sent)}>
                  {said(row.sent)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function said(sent: unknown): string {
  return Object.entries((sent ?? {}) as Record<string, unknown>)
    .map(([key, value]) => `${key} ${textOf(value)}`)
    .join(", ");
}
