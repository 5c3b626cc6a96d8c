import { clsx } from "clsx";
import { useCallback, useState } from "react";
import { useSearchParams } from "react-router";

import { useDeskCommands } from "../command/useDeskCommands";
import { CommitDialog } from "./header/CommitDialog";
import { Header } from "./header/Header";
import { Progress, ProgressWords } from "./header/Progress";
import { Instruments } from "./panels/Instruments";
import { SettingsDrawer } from "./panels/SettingsDrawer";
import { useShortcut } from "../frame/shortcuts";
import { useKept } from "../frame/useKept";
import { useMedia } from "../frame/useMedia";
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

/** Windows so wide hold two instruments beside each other. */
const WIDE = "(min-width: 1600px)";
const isBool = (value: unknown): value is boolean => typeof value === "boolean";
const isTab = (value: unknown): value is string => typeof value === "string";

function Table({ tab, onTab }: { tab: string; onTab: (tab: string) => void }) {
  const room = useRoom();
  const { plan, desk } = room;
  useDeskCommands(room, onTab);
  const [drawer, setDrawer] = useState(false);
  const [committing, setCommitting] = useState(false);
  const wide = useMedia(WIDE);
  const [large, setLarge] = useKept("northpace.large", false, isBool);
  const [second, setSecond] = useKept("northpace.beside", "", isTab);
  useShortcut("settings", () => setDrawer(!drawer));
  useShortcut("larger", () => setLarge(!large));
  useShortcut("decide", () => onTab("tradeoff"));
  useShortcut("findings", () => onTab("findings"));
  useShortcut("commit", () => desk.upToDate && setCommitting(true));
  const beside = wide && second !== "" && second !== tab;
  return (
    <main
      className={clsx(
        "grid h-full min-h-[max(620px,44.3rem)] grid-cols-[minmax(0,1fr)]",
        "grid-rows-[auto_auto_minmax(15.75rem,1fr)_auto]",
      )}
    >
      <Header onCommit={() => setCommitting(true)} onFindings={() => onTab("findings")} />
      <Progress />
      <div className="grid min-h-0" style={{ gridTemplateColumns: columns(large, beside) }}>
        <div className="relative flex min-h-0 min-w-0">
          {drawer && <SettingsDrawer onClose={() => setDrawer(false)} />}
          <div className="relative min-w-0 flex-1">
            <Stage />
          </div>
          {!drawer && (
            <button
              className="action absolute right-3 bottom-3"
              onClick={() => setDrawer(true)}
            >
              Settings …
            </button>
          )}
        </div>
        <Instruments tab={tab} onTab={onTab} taken={beside ? second : undefined}>
          <button
            className="slim m-1"
            aria-pressed={large}
            title={large ? "More room for the stage" : "More room for this than for the stage"}
            onClick={() => setLarge(!large)}
          >
            {large ? "smaller" : "larger"}
          </button>
          {wide && !beside && (
            <button
              className="slim m-1 ml-0"
              title="Another instrument beside this one"
              onClick={() => setSecond(tab === "ledger" ? "tradeoff" : "ledger")}
            >
              + beside
            </button>
          )}
        </Instruments>
        {beside && (
          <Instruments
            tab={second}
            onTab={setSecond}
            taken={tab}
            label="Instruments beside them"
          >
            <button className="slim m-1" onClick={() => setSecond("")}>
              close
            </button>
          </Instruments>
        )}
      </div>
      {desk.figures ? (
        <Lanes figures={desk.figures} />
      ) : (
        <div className="flex border-t border-ink p-4 text-ink-2">
          The lanes are drawn with the first figures.
          <ProgressWords />
        </div>
      )}
      {committing && plan.latest.report && (
        <CommitDialog plan={plan} onClose={() => setCommitting(false)} />
      )}
    </main>
  );
}

/** The columns of stage and instruments. */
function columns(large: boolean, beside: boolean): string {
  const stage = large ? "minmax(190px,0.45fr)" : "minmax(0,1fr)";
  const instrument = `minmax(330px,${large ? 1 : 0.62}fr)`;
  return [stage, instrument, ...(beside ? [instrument] : [])].join(" ");
}
