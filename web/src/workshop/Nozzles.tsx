import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Machine } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";

type Nozzle = Machine["nozzles"][number];

/** The nozzles of a machine with their own limits. */
export function Nozzles({ machine }: { machine: Machine }) {
  const client = useQueryClient();
  const again = { onSuccess: () => client.invalidateQueries({ queryKey: ["machines"] }) };
  const change = useMutation({
    mutationFn: ({ id, ...body }: Partial<Nozzle> & { id: number }) =>
      data(api.PATCH("/api/nozzles/{id}", { params: { path: { id } }, body })),
    ...again,
  });
  const add = useMutation({
    mutationFn: (bore: number) =>
      data(
        api.POST("/api/machines/{id}/nozzles", {
          params: { path: { id: machine.id } },
          body: {
            bore,
            flow: Math.round(50 * bore),
            least_height: Number((0.2 * bore).toFixed(2)),
          },
        }),
      ),
    ...again,
  });
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/nozzles/{id}", { params: { path: { id } } }),
    ...again,
  });
  const wrong = change.error ?? add.error ?? remove.error;
  const bores = machine.nozzles.map((nozzle) => nozzle.bore);
  return (
    <div>
      <table className="w-full text-[13px]">
        <caption className="sr-only">Nozzles</caption>
        <thead>
          <tr className="narrow border-b border-edge text-left text-[12px] text-ink-3">
            <th className="font-normal">nozzle</th>
            <th className="font-normal">melts at best</th>
            <th className="font-normal">layers from</th>
            <th className="font-normal">to</th>
            <th className="font-normal">hard</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {machine.nozzles.map((nozzle) => {
            const name = `${nozzle.bore} mm nozzle`;
            return (
              <tr
                key={nozzle.id}
                className="border-b border-hairline"
                data-nozzle={nozzle.bore}
              >
                <td className="py-1">
                  <NumberField
                    label={`Bore of the ${name}`}
                    unit="mm"
                    value={nozzle.bore}
                    min={0.1}
                    max={3}
                    width="w-14"
                    onValue={(v) => v !== null && change.mutate({ id: nozzle.id, bore: v })}
                  />
                </td>
                <td>
                  <NumberField
                    label={`Flow of the ${name}`}
                    unit="mm³/s"
                    value={nozzle.flow}
                    min={0.1}
                    max={500}
                    step={1}
                    width="w-14"
                    onValue={(v) => v !== null && change.mutate({ id: nozzle.id, flow: v })}
                  />
                </td>
                <td>
                  <NumberField
                    label={`Least layer of the ${name}`}
                    unit="mm"
                    value={nozzle.least_height}
                    min={0.01}
                    max={2}
                    step={0.01}
                    width="w-14"
                    onValue={(v) =>
                      v !== null && change.mutate({ id: nozzle.id, least_height: v })
                    }
                  />
                </td>
                <td>
                  <NumberField
                    label={`Greatest layer of the ${name}`}
                    unit="mm"
                    value={nozzle.greatest_height ?? null}
                    min={0.01}
                    max={2}
                    step={0.01}
                    width="w-14"
                    placeholder={nozzle.usual_greatest.toFixed(2)}
                    onValue={(v) => change.mutate({ id: nozzle.id, greatest_height: v })}
                  />
                </td>
                <td>
                  <input
                    type="checkbox"
                    className="accent-ink"
                    aria-label={`${name} stands abrasive materials`}
                    checked={nozzle.hard ?? false}
                    onChange={(event) =>
                      change.mutate({ id: nozzle.id, hard: event.target.checked })
                    }
                  />
                </td>
                <td className="text-right">
                  {machine.nozzles.length > 1 && (
                    <button
                      className="quiet"
                      aria-label={`Remove the ${name}`}
                      onClick={() => remove.mutate(nozzle.id)}
                    >
                      remove
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-1 flex flex-wrap items-center gap-1 text-[13px]">
        {[0.25, 0.4, 0.6, 0.8]
          .filter((bore) => !bores.includes(bore))
          .map((bore) => (
            <button key={bore} className="quiet" onClick={() => add.mutate(bore)}>
              + {bore} mm
            </button>
          ))}
        {wrong && (
          <span role="alert" className="text-stop">
            {wrong.message}
          </span>
        )}
      </p>
    </div>
  );
}
