import { clsx } from "clsx";
import { Tabs } from "radix-ui";
import { type ReactElement, type ReactNode, useState } from "react";

import { ComparePanel } from "../../compare/ComparePanel";
import { type Room, useRoom } from "../state/room";
import { Findings } from "./Findings";
import { LedgerPanel } from "./ledger/LedgerPanel";
import { MeshPanel } from "./mesh/MeshPanel";
import { PaceTable } from "./pace/PaceTable";
import { PathsPanel } from "./paths/PathsPanel";
import { Placement } from "./Placement";
import { bandsOf, regionsOf } from "./places/places";
import { PlacesPanel } from "./places/PlacesPanel";
import { ProposePanel } from "./propose/ProposePanel";
import { TradeOff } from "./tradeoff/TradeOff";

interface Instrument {
  key: string;
  name: (room: Room) => string;
  shown: (room: Room) => ReactElement;
}

interface Group {
  name: string;
  instruments: readonly Instrument[];
}

/** The instruments beside the stage, in the order of the work. */
const GROUPS: readonly Group[] = [
  {
    name: "decide",
    instruments: [
      { key: "tradeoff", name: () => "Trade-off", shown: () => <TradeOff /> },
      { key: "next", name: () => "Next", shown: () => <ProposePanel /> },
      {
        key: "compare",
        name: () => "Compare",
        shown: ({ plan }) => <ComparePanel plan={plan} />,
      },
    ],
  },
  {
    name: "account",
    instruments: [
      { key: "ledger", name: () => "Time ledger", shown: () => <LedgerPanel /> },
      {
        key: "findings",
        // counted as the header counts them: notes are no work
        name: ({ findings }) =>
          `Findings ${findings.filter((one) => one.severity !== "note").length || ""}`,
        shown: () => <Findings />,
      },
    ],
  },
  {
    name: "set up",
    instruments: [
      { key: "place", name: () => "Placement", shown: () => <Placement /> },
      { key: "mesh", name: () => "Mesh", shown: () => <MeshPanel /> },
      { key: "paths", name: () => "Paths", shown: () => <PathsPanel /> },
      { key: "pace", name: () => "Pace", shown: () => <PaceTable /> },
      {
        key: "places",
        name: ({ desk }) =>
          `Places ${bandsOf(desk.choice).length + regionsOf(desk.choice).length || ""}`,
        shown: () => <PlacesPanel />,
      },
    ],
  },
];
/** All of them, by key and name. */
export const instruments = (room: Room): (readonly [string, string])[] =>
  GROUPS.flatMap((group) =>
    group.instruments.map(({ key, name }) => [key, name(room)] as const),
  );
const holds = (group: Group, tab: string) =>
  group.instruments.some((instrument) => instrument.key === tab);

/** One row: kinds of instruments, those of the kind that is open, and their room on the desk. */
export function Instruments({
  tab,
  onTab,
  label = "Instruments",
  taken,
  children,
}: {
  tab: string;
  onTab: (tab: string) => void;
  label?: string;
  /** What stands open beside it already. */
  taken?: string | undefined;
  /** How much room it has, to be changed. */
  children?: ReactNode;
}) {
  const room = useRoom();
  const open = GROUPS.find((group) => holds(group, tab)) ?? GROUPS[0];
  // a kind opens where it was left
  const [left, setLeft] = useState<Record<string, string>>({});
  const choose = (key: string) => {
    const group = GROUPS.find((one) => holds(one, key));
    if (group) setLeft({ ...left, [group.name]: key });
    onTab(key);
  };
  return (
    <Tabs.Root
      value={tab}
      onValueChange={choose}
      className="flex min-h-0 min-w-0 flex-col border-l border-hairline bg-sheet"
    >
      <div className="flex border-b border-hairline">
        <div
          role="group"
          aria-label="Kinds"
          className="flex border-r border-hairline bg-paper px-1"
        >
          {GROUPS.map((group) => (
            <button
              key={group.name}
              aria-pressed={group === open}
              className={clsx(
                "min-h-8 border-0 bg-transparent px-1.5 text-[12px] text-ink-2",
                "aria-pressed:font-semibold aria-pressed:text-ink",
              )}
              onClick={() => {
                const free = group.instruments.filter((one) => one.key !== taken);
                const last = free.find((one) => one.key === left[group.name]) ?? free[0];
                choose(last?.key ?? tab);
              }}
            >
              {group.name}
            </button>
          ))}
        </div>
        <Tabs.List className="flex min-w-0 flex-1 flex-wrap px-0.5" aria-label={label}>
          {open?.instruments.map(({ key, name }) => (
            <Tabs.Trigger
              key={key}
              value={key}
              disabled={key === taken}
              title={key === taken ? "stands open beside this" : undefined}
              className={clsx(
                "min-h-8 border-0 border-b-2 border-transparent bg-transparent px-1.5",
                "text-[13px] font-medium whitespace-nowrap",
                "data-[state=active]:border-north data-[state=active]:font-semibold",
                "disabled:opacity-50",
              )}
            >
              {name(room)}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {children}
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {open?.instruments.map(({ key, shown }) => (
          <Tabs.Content
            key={key}
            value={key}
            className={key === "tradeoff" ? "h-full" : undefined}
          >
            {shown(room)}
          </Tabs.Content>
        ))}
      </div>
    </Tabs.Root>
  );
}
