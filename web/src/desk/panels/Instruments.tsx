import { clsx } from "clsx";
import { Tabs } from "radix-ui";
import type { ReactElement } from "react";

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

/** The instruments beside the stage, in the order of the work. */
const INSTRUMENTS: readonly Instrument[] = [
  { key: "tradeoff", name: () => "Trade-off", shown: () => <TradeOff /> },
  { key: "next", name: () => "Next", shown: () => <ProposePanel /> },
  { key: "compare", name: () => "Compare", shown: ({ plan }) => <ComparePanel plan={plan} /> },
  { key: "ledger", name: () => "Time ledger", shown: () => <LedgerPanel /> },
  { key: "pace", name: () => "Pace", shown: () => <PaceTable /> },
  {
    key: "findings",
    name: ({ findings }) => `Findings ${findings.length || ""}`,
    shown: () => <Findings />,
  },
  { key: "paths", name: () => "Paths", shown: () => <PathsPanel /> },
  {
    key: "places",
    name: ({ desk }) =>
      `Places ${bandsOf(desk.choice).length + regionsOf(desk.choice).length || ""}`,
    shown: () => <PlacesPanel />,
  },
  { key: "place", name: () => "Placement", shown: () => <Placement /> },
  { key: "mesh", name: () => "Mesh", shown: () => <MeshPanel /> },
];

export function Instruments({ tab, onTab }: { tab: string; onTab: (tab: string) => void }) {
  const room = useRoom();
  return (
    <Tabs.Root value={tab} onValueChange={onTab} className="flex min-h-0 flex-col bg-sheet">
      <Tabs.List
        className="flex flex-wrap border-b border-hairline px-1"
        aria-label="Instruments"
      >
        {INSTRUMENTS.map(({ key, name }) => (
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
            {name(room)}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <div className="min-h-0 flex-1 overflow-auto">
        {INSTRUMENTS.map(({ key, shown }) => (
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
