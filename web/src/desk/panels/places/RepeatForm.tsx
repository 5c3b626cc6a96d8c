import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Setting } from "../../../api/client";
import { NumberField } from "../NumberField";
import { type Band, bandWords, localSettings } from "./places";

/**
 * A test tower: bands of one height, one setting going up or down by a step; shown before it is
 * kept.
 */
export function RepeatForm({
  settings,
  base,
  from,
  top,
  onBands,
  onDone,
}: {
  settings: Setting[];
  base: (setting: Setting) => unknown;
  from: number;
  top: number;
  onBands: (bands: Band[]) => void;
  onDone: () => void;
}) {
  const numbers = localSettings(settings, "band").filter(
    (entry) => entry.type === "number" || entry.type === "integer",
  );
  const [name, setName] = useState("air.nozzle_temp");
  const setting = numbers.find((entry) => entry.name === name);
  const now = setting ? Number(base(setting) ?? setting.default ?? 0) : 0;
  const [low, setLow] = useState(from);
  const [every, setEvery] = useState(8);
  const [high, setHigh] = useState(top);
  const [start, setStart] = useState(now);
  const [step, setStep] = useState(-5);
  const ask = {
    name: setting?.label.toLowerCase() ?? "",
    from_mm: low,
    every_mm: every,
    to_mm: high,
    setting: name,
    start,
    step,
  };
  const found = useQuery({
    queryKey: ["repeat", JSON.stringify(ask)],
    queryFn: () => data(api.POST("/api/bands/repeat", { body: ask })),
    retry: false,
    staleTime: 60_000,
    placeholderData: (before) => before,
  });
  const bands = (found.data?.bands ?? []) as Band[];
  return (
    <div
      role="group"
      aria-label="Repeat a band"
      className="flex flex-col gap-2 border-l-2 border-fjord py-1 pl-2"
    >
      <p className="flex flex-wrap items-center gap-2">
        every{" "}
        <NumberField
          label="Every"
          unit="mm"
          value={every}
          min={0.1}
          max={5000}
          step={1}
          width="w-14"
          onValue={(v) => v && setEvery(v)}
        />
        from{" "}
        <NumberField
          label="From height"
          unit="mm"
          value={low}
          min={0}
          max={top}
          step={1}
          width="w-14"
          onValue={(v) => v !== null && setLow(v)}
        />
        up to{" "}
        <NumberField
          label="Up to height"
          unit="mm"
          value={high}
          min={0}
          max={top}
          step={1}
          width="w-16"
          onValue={(v) => v !== null && setHigh(v)}
        />
      </p>
      <p className="flex flex-wrap items-center gap-2">
        <select
          className="field"
          aria-label="Setting to test"
          value={name}
          onChange={(event) => {
            const next = numbers.find((entry) => entry.name === event.target.value);
            setName(event.target.value);
            if (next) setStart(Number(base(next) ?? next.default ?? 0));
          }}
        >
          {numbers.map((entry) => (
            <option key={entry.name} value={entry.name}>
              {entry.group_title}: {entry.label}
            </option>
          ))}
        </select>
        begins with{" "}
        <NumberField
          label="First value"
          unit={setting?.unit ?? ""}
          value={start}
          width="w-16"
          onValue={(v) => v !== null && setStart(v)}
        />
        then each{" "}
        <NumberField
          label="Step"
          unit={setting?.unit ?? ""}
          value={step}
          width="w-14"
          onValue={(v) => v !== null && setStep(v)}
        />
      </p>
      {found.error && (
        <p role="alert" className="text-stop">
          {found.error.message}
        </p>
      )}
      {!found.error && (
        <ol data-preview className="narrow">
          {bands.map((band, k) => (
            <li key={k}>
              {band.from_mm.toFixed(2)} to {band.to_mm.toFixed(2)} mm:{" "}
              {bandWords(band, settings)}
            </li>
          ))}
        </ol>
      )}
      <p className="flex gap-2">
        <button
          className="action"
          disabled={!!found.error || bands.length === 0}
          onClick={() => {
            onBands(bands);
            onDone();
          }}
        >
          Add these {bands.length} bands
        </button>
        <button className="quiet" onClick={onDone}>
          Not now
        </button>
      </p>
    </div>
  );
}
