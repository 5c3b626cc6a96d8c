import { clsx } from "clsx";
import { useCallback, useState } from "react";
import { useSearchParams } from "react-router";

import { useDeskCommands } from "../command/useDeskCommands";
import { CommitDialog } from "./header/CommitDialog";
import { Header } from "./header/Header";
import { Progress } from "./header/Progress";
import { Instruments } from "./panels/Instruments";
import { SettingsDrawer } from "./panels/SettingsDrawer";
import { Lanes } from "./lanes/Lanes";
import { Stage } from "./stage/Stage";
import { DeskRoom, type Subject, useRoom } from "./state/room";

/** The planner's desk: title sentence and figures, stage and instruments, height lanes. */
export function Desk(subject: Subject) {
  // a link from elsewhere may lead to one of them
  const [asked] = useSearchParams();
  const [tab, setTab] = useState(asked.get("open") ?? "tradeoff");
  const toPlaces = useCallback(() => setTab("places"), []);
  return (
    <DeskRoom subject={subject} onPlaces={toPlaces}>
      <Table tab={tab} onTab={setTab} />
    </DeskRoom>
  );
}

function Table({ tab, onTab }: { tab: string; onTab: (tab: string) => void }) {
  const room = useRoom();
  const { plan, desk } = room;
  useDeskCommands(room, onTab);
  const [drawer, setDrawer] = useState(false);
  const [committing, setCommitting] = useState(false);
  return (
    <main
      className={clsx(
        "grid h-full min-h-[620px] grid-cols-[minmax(0,1fr)]",
        "grid-rows-[auto_auto_minmax(220px,1fr)_auto]",
      )}
    >
      <Header onCommit={() => setCommitting(true)} />
      <Progress />
      <div className="grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(330px,0.62fr)]">
        <div className="relative min-h-0 border-r border-hairline">
          <Stage />
          {drawer ? (
            <SettingsDrawer onClose={() => setDrawer(false)} />
          ) : (
            <button
              className="action absolute right-3 bottom-3"
              onClick={() => setDrawer(true)}
            >
              Settings …
            </button>
          )}
        </div>
        <Instruments tab={tab} onTab={onTab} />
      </div>
      {desk.figures ? (
        <Lanes figures={desk.figures} />
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
