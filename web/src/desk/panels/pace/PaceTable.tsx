import type { Schemas } from "../../../api/client";
import { plain, span, textOf } from "../../../format";
import { NumberField } from "../NumberField";
import { withValue } from "../../state/choice";
import { PaceLimits } from "./PaceLimits";
import { useDialEnds } from "./useDialEnds";
import { useRoom } from "../../state/room";
import { INK, INK_3, LOOK, FJORD } from "../../../tokens";

export type PaceRow = Schemas["PaceRow"];

/**
 * Speeds and accelerations by feature: the flow each asks for against what is safe, what is really
 * reached, and what holds it.
 */
export function PaceTable() {
  const { plan, desk, settings } = useRoom();
  const { spec } = desk.now;
  const pace = desk.figures?.pace;
  const ends = useDialEnds();
  if (!pace) return <p className="p-4 text-ink-2">The first figures are on their way.</p>;
  const exact = desk.figures?.state === "exact";
  // the ≈ figures know every feature; shown are those the part has
  const known = plan.exact?.report?.pace.rows.map((row) => row.name);
  const rows = pace.rows.filter(
    (row) => !known || known.includes(row.name) || row.name === "short loops",
  );
  const own = desk.choice.settings;
  const named = (name: string) => settings.find((setting) => setting.name === name);
  const byHand = (own.pace?.by_hand as string[] | undefined) ?? [];
  const dialled = typeof own.pace?.dial === "number";
  const derived = dialled || own.pace?.derived === true;
  const mode = dialled ? "dial" : derived ? "limits" : "typed";
  const set = (name: string, value: number | null) => {
    const setting = named(name);
    if (!setting) return;
    let next = withValue(
      own,
      setting.group,
      setting.key,
      value ?? setting.default,
      derived ? undefined : setting.default,
    );
    if (derived && !byHand.includes(setting.key))
      next = withValue(next, "pace", "by_hand", [...byHand, setting.key], undefined);
    desk.change({ ...desk.choice, settings: next });
  };
  const again = (name: string) => {
    const key = name.split(".")[1] ?? "";
    const rest = byHand.filter((one) => one !== key);
    desk.change({
      ...desk.choice,
      settings: withValue(
        withValue(own, "pace", key, undefined, undefined),
        "pace",
        "by_hand",
        rest.length ? rest : undefined,
        undefined,
      ),
    });
  };
  const most = Math.max(1, ...rows.map((row) => row.share));
  return (
    <div className="flex flex-col gap-3 p-3" data-pace={exact ? "exact" : "quick"}>
      <p className="text-[13px]">
        Safe flow <b>{pace.safe_flow.toFixed(1)} mm³/s</b>
        <span className="text-ink-2">
          , of the {pace.most_flow.toFixed(1)} that{" "}
          {pace.limited_by === "nozzle"
            ? "the nozzle"
            : `${textOf(spec.material?.name ?? "the material")} at ${plain(pace.temp)} °C`}{" "}
          melts at best.{" "}
        </span>
        {pace.first_at_limit && (
          <>
            <b data-first>{pace.first_at_limit}</b> comes{" "}
            {(rows.find((row) => row.name === pace.first_at_limit)?.share ?? 0) > 1
              ? "over"
              : "closest to"}{" "}
            it first.
          </>
        )}
      </p>
      <PaceLimits desk={desk} settings={settings} mode={mode} />
      <table className="w-full text-[13px]">
        <caption className="sr-only">Speed, flow and acceleration by feature</caption>
        <thead>
          <tr className="narrow border-b border-edge text-left text-[12px] text-ink-3">
            <th className="font-normal">feature</th>
            <th className="font-normal">speed mm/s</th>
            <th className="px-1 font-normal">reaches</th>
            <th className="font-normal">flow mm³/s, of safe</th>
            <th className="font-normal whitespace-nowrap">accel. mm/s²</th>
            {pace.dial && <th className="px-1 font-normal">precise</th>}
            {pace.dial && <th className="px-1 font-normal">quick</th>}
            <th className="text-right font-normal">time</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} data-row={row.name} className="border-b border-hairline">
              <th
                scope="row"
                className="narrow py-0.5 pr-1 text-left font-medium whitespace-nowrap"
              >
                {row.name}
              </th>
              <td className="whitespace-nowrap">
                <NumberField
                  label={`Speed of ${row.name}`}
                  unit=""
                  value={row.asked}
                  min={named(row.setting)?.min ?? null}
                  max={named(row.setting)?.max ?? null}
                  step={1}
                  width="w-14"
                  onValue={(v) => set(row.setting, v)}
                />
                {row.derived && !pace.dial && (
                  <span
                    className="narrow mx-1 text-[12px] text-fjord"
                    title="follows from the limits above"
                  >
                    derived
                  </span>
                )}
                {derived && byHand.includes(row.setting.split(".")[1] ?? "") && (
                  <button className="quiet ml-1" onClick={() => again(row.setting)}>
                    derive
                  </button>
                )}
              </td>
              <td className="px-1">
                {exact ? <Reached row={row} /> : <span className="text-ink-3">…</span>}
              </td>
              <td className="pr-2">
                {row.section_mm2 > 0 ? (
                  <FlowBar
                    row={row}
                    most={most}
                    first={row.name === pace.first_at_limit}
                    wide={pace.dial ? 34 : 84}
                  />
                ) : (
                  <span className="text-ink-3">lays nothing</span>
                )}
              </td>
              <td className="whitespace-nowrap">
                {row.push ? (
                  <NumberField
                    label={`Acceleration of ${row.name}`}
                    unit=""
                    value={row.acceleration}
                    min={10}
                    max={50000}
                    step={50}
                    width="w-14"
                    onValue={(v) => set(row.push, v)}
                  />
                ) : (
                  <span className="text-ink-3">
                    {row.name === "z" ? "the axis'" : "of its wall"}
                  </span>
                )}
              </td>
              {pace.dial && <EndCells row={row} dial={pace.dial} ends={ends} />}
              <td className="text-right whitespace-nowrap">
                {row.seconds !== null && `${exact ? "" : "≈ "}${span(row.seconds)}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {ends.error && (
        <p role="alert" className="text-[13px] text-stop">
          {ends.error.message}
        </p>
      )}
      <p className="text-[12px] text-ink-2">
        Speeds above the safe flow are held to it bead by bead.{" "}
        {exact
          ? "What is reached is the fastest any move of the feature gets, by the motion model."
          : "What is reached comes with the exact plan."}{" "}
        Short wall loops get a row of their own when Pace sets a length for them.
        {pace.dial &&
          ` The ends are kept for ${ends.place}, for every plan; an empty one follows from limits.`}
      </p>
    </div>
  );
}

/** A feature's speed at both ends of the dial: typed for this machine and material, or open. */
function EndCells({
  row,
  dial,
  ends,
}: {
  row: PaceRow;
  dial: NonNullable<Schemas["Pace"]["dial"]>;
  ends: ReturnType<typeof useDialEnds>;
}) {
  return (["precise", "quick"] as const).map((end) => {
    const value = dial[end][row.setting];
    const typed = dial[`typed_${end}`].includes(row.setting);
    return (
      <td key={end} className="px-1 whitespace-nowrap">
        {value !== undefined && (
          <NumberField
            label={`${row.name} at the ${end} end`}
            unit=""
            value={typed ? value : null}
            placeholder={plain(value)}
            min={0}
            max={1000}
            step={1}
            width="w-12"
            onValue={(v) => ends.set(end, row.setting, v)}
          />
        )}
      </td>
    );
  });
}

/** What a feature really gets to, marked where that is less than was asked, with what holds it. */
function Reached({ row }: { row: PaceRow }) {
  if (row.reached === null) return <span className="text-ink-3">–</span>;
  if (!row.held_by) return <span>{plain(Number(row.reached.toFixed(1)))}</span>;
  return (
    <span className="text-look" data-held={row.held_by}>
      ▲ <b>{row.reached.toFixed(0)}</b>{" "}
      <span className="narrow text-[12px]">{row.held_by}</span>
    </span>
  );
}

/**
 * Flow at the speed asked for as a bar against the safe flow; what is over it is hatched and said.
 */
function FlowBar({
  row,
  most,
  first,
  wide,
}: {
  row: PaceRow;
  most: number;
  first: boolean;
  /** Pixels of the whole bar. */
  wide: number;
}) {
  const over = row.share > 1;
  return (
    <span
      className="flex items-center gap-1.5"
      title={`bead of ${row.section_mm2.toFixed(4)} mm²`}
    >
      <svg
        width={wide}
        height="12"
        role="img"
        aria-label={`${Math.round(100 * row.share)} % of the safe flow`}
      >
        <rect
          x="0"
          y="2"
          width={(wide * Math.min(row.share, 1)) / most}
          height="8"
          fill={first ? INK : INK_3}
        />
        {over && (
          <rect
            x={wide / most}
            y="2"
            width={(wide * (row.share - 1)) / most}
            height="8"
            fill="none"
            stroke={LOOK}
            strokeWidth="1.5"
          />
        )}
        <line
          x1={wide / most - 0.5}
          x2={wide / most - 0.5}
          y1="0"
          y2="12"
          stroke={FJORD}
          strokeWidth="1.5"
        />
      </svg>
      <span className={`narrow whitespace-nowrap ${over ? "text-look" : ""}`}>
        {over ? "▲ " : ""}
        {row.flow.toFixed(1)} · {Math.round(100 * row.share)} %
      </span>
    </span>
  );
}
