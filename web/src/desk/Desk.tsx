import { clsx } from "clsx";
import { Tabs } from "radix-ui";
import { useEffect, useMemo, useState } from "react";

import type { Finding, Machine, Material, Plan, Setting, Version } from "../api/client";
import { ComparePanel } from "../compare/ComparePanel";
import { plain } from "../format";
import { CommitDialog } from "./CommitDialog";
import { Findings } from "./Findings";
import { Header } from "./Header";
import { type LaneFacts, Lanes } from "./lanes/Lanes";
import { LedgerPanel } from "./ledger/LedgerPanel";
import { PaceTable } from "./pace/PaceTable";
import { Placement } from "./Placement";
import { Progress } from "./Progress";
import { SettingsDrawer } from "./SettingsDrawer";
import { ProposePanel } from "./propose/ProposePanel";
import { PathsPanel } from "./paths/PathsPanel";
import type { BedShape } from "./stage/Bed";
import type { Focus } from "./stage/Camera";
import { bandsOf, type Picked, type Region, regionsOf, withRegions } from "./places/places";
import { PlacesPanel } from "./places/PlacesPanel";
import { useRegionLines } from "./places/useRegionLines";
import { type Marking, Stage } from "./stage/Stage";
import { toFile, useShape } from "./stage/useShape";
import { TradeOff } from "./tradeoff/TradeOff";
import { useToolpath } from "./toolpath";
import { layerAtHeight, useCursor } from "./useCursor";
import { useDesk } from "./useDesk";

const NO_LAYERS: number[] = [];
const NO_FINDINGS: Finding[] = [];
const SOME_SIZE = [50, 50, 50];
type Spec = Record<string, Record<string, unknown>>;
const num = (value: unknown, normal = 0): number =>
  typeof value === "number" ? value : normal;

/** The planner's desk: title sentence and figures, stage and instruments, height lanes. */
export function Desk({
  plan,
  machines,
  materials,
  settings,
}: {
  plan: Plan;
  machines: Machine[];
  materials: Material[];
  settings: Setting[];
}) {
  const desk = useDesk(plan, settings);
  const [drawer, setDrawer] = useState(false);
  const [committing, setCommitting] = useState(false);
  const [held, setHeld] = useState(false);
  const [pinned, setPinned] = useState(false);
  const [focus, setFocus] = useState<Focus | null>(null);
  const [tab, setTab] = useState("tradeoff");
  const [marking, setMarking] = useState<Marking>(null);
  const [picked, setPicked] = useState<Picked>(null);
  const lines = useRegionLines(plan.id, desk);
  const pick = (next: Picked, open = next?.kind === "region") => {
    setPicked(next);
    if (open) setTab("places");
  };
  const base = plan.baseline && plan.baseline.id !== plan.latest.id ? plan.baseline : null;
  const ghost = (held || pinned) && base !== null;
  const path = useToolpath(plan.exact?.id ?? null).data;
  const ghostPath = useToolpath(ghost ? base.id : null).data;
  useHeldKey("g", setHeld);
  const spec = plan.latest.spec as Spec;
  const cursor = useCursor(desk.figures?.layers.tops_mm ?? NO_LAYERS, path);
  const bed = useMemo<BedShape>(() => {
    const m = spec.machine ?? {};
    const [round, x, y] = [m.bed === "round", num(m.size_x, 220), num(m.size_y, 220)];
    return {
      round,
      x,
      y,
      z: num(m.size_z, 250),
      origin: [num(m.origin_x, round ? 0 : x / 2), num(m.origin_y, round ? 0 : y / 2)],
    };
  }, [spec]);
  const size = plan.exact?.report?.part.size_mm ?? plan.part.facts?.size_mm ?? SOME_SIZE;
  const shapeKey = JSON.stringify([
    spec.place ?? {},
    spec.surface?.marks ?? [],
    ((spec.body?.regions ?? []) as Region[]).filter((region) => region.attention),
  ]);
  const shape = useShape(plan.id, shapeKey).data;
  const { least_height: least, greatest_height: greatest } = plan.latest.resolved;
  const limits = useMemo<[number, number]>(() => [least, greatest], [least, greatest]);
  const machine = machines.find((entry) =>
    entry.nozzles.some((nozzle) => nozzle.id === desk.choice.nozzle),
  );
  const facts = useMemo(
    () => laneFacts(spec, plan.latest.resolved),
    [spec, plan.latest.resolved],
  );
  const findings = desk.report?.findings ?? NO_FINDINGS;
  const top = desk.figures?.layers.tops_mm[cursor.layer] ?? size[2] ?? 0;
  const toHeight = (z: number) => {
    if (desk.figures) cursor.go(layerAtHeight(desk.figures.layers.tops_mm, z));
  };
  const toPlace = (finding: Finding, place: readonly number[]) => {
    const [x = 0, y = 0, z = 0] = place;
    toHeight(z);
    setFocus({ at: [x, y, z], title: finding.message });
  };
  /**
   * A region from a finding: a ball around its place, to be made another shape where that fits
   * better.
   */
  const regionHere = (finding: Finding) => {
    if (!shape || !finding.at_mm) return;
    const [x, y, z] = toFile(shape.affine, finding.at_mm as [number, number, number]).map(
      (v) => Number(v.toFixed(3)),
    ) as [number, number, number];
    const regions = regionsOf(desk.choice);
    desk.change(
      withRegions(desk.choice, [
        ...regions,
        { name: finding.code, shape: "ball", x, y, z, reach: 5, changes: {} },
      ]),
    );
    pick({ kind: "region", n: regions.length });
  };
  return (
    <main
      className={clsx(
        "grid h-full min-h-[620px] grid-cols-[minmax(0,1fr)]",
        "grid-rows-[auto_auto_minmax(220px,1fr)_auto]",
      )}
    >
      <Header
        plan={plan}
        desk={desk}
        machines={machines}
        materials={materials}
        onCommit={() => setCommitting(true)}
      />
      <Progress plan={plan} desk={desk} settings={settings} />
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(330px,0.62fr)]">
        <div className="relative min-h-0 border-r border-hairline">
          <Stage
            plan={plan.id}
            desk={desk}
            shapeKey={shapeKey}
            size={size}
            bed={bed}
            path={path}
            ghost={ghost ? (ghostPath ?? null) : null}
            layers={ghost ? base.report.layers : (desk.figures?.layers ?? null)}
            limits={limits}
            lift={plan.exact?.report?.footing.lift_mm ?? 0}
            cursor={cursor}
            top={top}
            stale={!desk.upToDate && !!path}
            report={plan.exact?.report ?? null}
            findings={findings}
            safe={plan.latest.resolved.safe_flow}
            least={plan.latest.resolved.least_layer_time}
            focus={focus}
            onFinding={toPlace}
            onFocusDone={() => setFocus(null)}
            marking={marking}
            onMarking={setMarking}
            lines={lines}
            picked={picked}
            onPicked={pick}
          />
          {!drawer && (
            <button
              className="action absolute right-3 bottom-3"
              onClick={() => setDrawer(true)}
            >
              Settings …
            </button>
          )}
          {drawer && (
            <SettingsDrawer
              desk={desk}
              plan={plan}
              settings={settings}
              spec={spec}
              onClose={() => setDrawer(false)}
            />
          )}
        </div>
        <Tabs.Root
          value={tab}
          onValueChange={setTab}
          className="flex min-h-0 flex-col bg-sheet"
        >
          <Tabs.List
            className="flex flex-wrap border-b border-hairline px-1"
            aria-label="Instruments"
          >
            {(
              [
                ["tradeoff", "Trade-off"],
                ["next", "Next"],
                ["compare", "Compare"],
                ["ledger", "Time ledger"],
                ["pace", "Pace"],
                ["findings", `Findings ${findings.length || ""}`],
                ["paths", "Paths"],
                [
                  "places",
                  `Places ${bandsOf(desk.choice).length + regionsOf(desk.choice).length || ""}`,
                ],
                ["place", "Placement"],
              ] as const
            ).map(([key, name]) => (
              <Tabs.Trigger
                key={key}
                value={key}
                className={clsx(
                  "min-h-8 border-0 border-b-2 border-transparent bg-transparent px-1.5",
                  "text-[13px] font-medium whitespace-nowrap",
                  "data-[state=active]:border-north data-[state=active]:font-semibold",
                  "lg:px-2",
                )}
              >
                {name}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <div className="min-h-0 flex-1 overflow-auto">
            <Tabs.Content value="tradeoff" className="h-full">
              <TradeOff plan={plan} desk={desk} />
            </Tabs.Content>
            <Tabs.Content value="next">
              <ProposePanel plan={plan} desk={desk} settings={settings} />
            </Tabs.Content>
            <Tabs.Content value="compare">
              <ComparePanel plan={plan} />
            </Tabs.Content>
            <Tabs.Content value="ledger">
              <LedgerPanel
                plan={plan}
                desk={desk}
                settings={settings}
                findings={findings}
                go={{
                  onHeight: toHeight,
                  onGo: (at, title) => {
                    toHeight(at[2]);
                    setFocus({ at, title });
                  },
                }}
              />
            </Tabs.Content>
            <Tabs.Content value="pace">
              <PaceTable plan={plan} desk={desk} settings={settings} spec={spec} />
            </Tabs.Content>
            <Tabs.Content value="findings">
              {desk.report ? (
                <Findings
                  plan={plan}
                  desk={desk}
                  settings={settings}
                  findings={findings}
                  onGo={toPlace}
                  onHeight={toHeight}
                  onRegion={shape ? regionHere : null}
                />
              ) : (
                <p className="p-4 text-ink-2">Findings come with the exact plan.</p>
              )}
            </Tabs.Content>
            <Tabs.Content value="paths">
              <PathsPanel
                plan={plan}
                desk={desk}
                settings={settings}
                spec={spec}
                onHeight={toHeight}
                onGo={(at, title) => {
                  toHeight(at[2]);
                  setFocus({ at, title });
                }}
              />
            </Tabs.Content>
            <Tabs.Content value="places">
              <PlacesPanel
                plan={plan}
                desk={desk}
                settings={settings}
                spec={spec}
                z={top}
                bounds={{ top: size[2] ?? 0, least, greatest }}
                lines={lines}
                ties={{
                  flats: desk.figures?.surface.flats_mm ?? NO_LAYERS,
                  findings: findings.filter((finding) => finding.z_mm !== null),
                  toFile: shape ? (point) => toFile(shape.affine, point) : null,
                }}
                picked={picked}
                onPick={pick}
                onHeight={toHeight}
                onPlace={() => setMarking("regions")}
              />
            </Tabs.Content>
            <Tabs.Content value="place">
              <Placement plan={plan} desk={desk} size={size} />
            </Tabs.Content>
          </div>
        </Tabs.Root>
      </div>
      {desk.figures ? (
        <Lanes
          plan={plan}
          desk={desk}
          settings={settings}
          lines={lines}
          picked={picked}
          onPick={pick}
          figures={desk.figures}
          path={path}
          cursor={cursor}
          facts={facts}
          machine={machine}
          findings={findings}
          onFinding={toPlace}
          ghost={ghost}
          onGhost={setPinned}
        />
      ) : (
        <p className="border-t border-ink p-4 text-ink-2">
          The lanes are drawn with the first figures.
        </p>
      )}
      {committing && plan.latest.report && (
        <CommitDialog plan={plan} onClose={() => setCommitting(false)} />
      )}
    </main>
  );
}

/** What the lanes say in words: limits, and the values that are the same at every height. */
function laneFacts(spec: Spec, resolved: Version["resolved"]): LaneFacts {
  const { body = {}, air = {}, pace = {} } = spec;
  const off = num(air.fan_off_layers, 1);
  return {
    least: resolved.least_height,
    greatest: resolved.greatest_height,
    leastTime: resolved.least_layer_time,
    zStep: num(spec.machine?.z_step, 0.01),
    folded: [
      {
        lane: "infill",
        words:
          body.build === "ordinary"
            ? `infill ${plain(num(body.infill_density))} % ${String(body.infill_pattern)}`
            : "open at the top, nothing inside",
      },
      {
        lane: "walls",
        words:
          body.build === "spiral"
            ? `one spiral wall of ${plain(num(body.outer_width))} mm`
            : `walls ${num(body.walls)} × ${plain(num(body.outer_width))} mm`,
      },
      { lane: "speed", words: `outer wall ${plain(num(pace.outer_wall_speed))} mm/s` },
      { lane: "flow", words: `flow up to ${plain(resolved.safe_flow)} mm³/s` },
      {
        lane: "nozzle_temp",
        words:
          `nozzle ${plain(resolved.first_nozzle_temp)} °C first layer, ` +
          `${plain(resolved.nozzle_temp)} °C above`,
      },
      { lane: "fan", words: `fan ${plain(resolved.fan)} % from layer ${off + 1}` },
    ],
    open: {
      nozzle_temp: resolved.nozzle_temp,
      fan: resolved.fan,
      flow: num(spec.material?.flow, 100),
    },
  };
}

/** Whether a key is held, outside of fields. */
function useHeldKey(name: string, onHeld: (held: boolean) => void) {
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
