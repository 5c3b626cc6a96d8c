import { useQuery } from "@tanstack/react-query";

import { api, data, type Plan, type Setting } from "../../../api/client";
import { inWords } from "../../state/recipes";
import type { Desk } from "../../state/useDesk";

/**
 * What differs from the whole part at a height: setting, value there, value elsewhere, and which
 * band or region says so.
 */
export function Here({
  plan,
  desk,
  settings,
  z,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  z: number;
}) {
  const body = { ...desk.choice, z_mm: z };
  const found = useQuery({
    queryKey: ["here", plan.id, JSON.stringify(body)],
    queryFn: () =>
      data(api.POST("/api/plans/{id}/here", { params: { path: { id: plan.id } }, body })),
    retry: false,
    staleTime: 60_000,
    placeholderData: (before) => before,
  });
  const rows = found.data ?? [];
  return (
    <section aria-label="What differs here">
      <h3 className="font-semibold">What differs at {z.toFixed(2)} mm</h3>
      {found.error && (
        <p className="text-ink-2">Not known while the settings contradict each other.</p>
      )}
      {!found.error && found.data && rows.length === 0 && (
        <p className="text-ink-2">
          Nothing: everything is as the settings say for the whole part.
        </p>
      )}
      {rows.length > 0 && (
        <table className="narrow w-full text-left">
          <thead>
            <tr className="text-ink-3">
              <th className="font-normal">setting</th>
              <th className="font-normal">here</th>
              <th className="font-normal">elsewhere</th>
              <th className="font-normal">from</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row, k) => {
              const setting = settings.find((entry) => entry.name === row.name);
              return (
                <tr key={k} data-here={row.name} className="border-t border-hairline">
                  <td>{setting?.label ?? row.name}</td>
                  <td>
                    <b>{inWords(row.value, setting?.unit ?? "")}</b>
                  </td>
                  <td>
                    {row.base === null && setting?.source
                      ? `the ${setting.source}'s`
                      : inWords(row.base === "" ? "as it is" : row.base, setting?.unit ?? "")}
                  </td>
                  <td>
                    {row.by}
                    {row.kind === "region" && ", inside it"}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}
