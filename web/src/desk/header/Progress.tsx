import type { Setting } from "../../api/client";
import { useAway } from "../../api/away";
import { useRoom } from "../state/room";

const WORDS: Record<string, string> = {
  load: "reading the part",
  layers: "stacking layers",
  outlines: "cutting outlines",
  paths: "laying paths",
  motion: "timing every move",
  gcode: "writing the file",
};

/** Settings by the names they have on the screen, instead of those of the command line. */
function inWords(message: string, settings: Setting[]): string {
  const labels = new Map(settings.map((setting) => [setting.name, setting.label]));
  return message.replace(/\b[a-z]+\.[a-z_]+\b/g, (name) => labels.get(name) ?? name);
}

/**
 * One line between header and stage: what is being computed and how to stop it, or what is wrong
 * and what is allowed.
 */
export function Progress() {
  const { plan, desk, settings } = useRoom();
  const away = useAway();
  // that the service is away is said once, for all of the page
  if (desk.failure?.status === 409 && desk.failure.where === "plan")
    return (
      <p role="alert" className="border-b border-look bg-sheet px-4 py-1.5 text-[13px]">
        <b className="text-look">▲ Changed elsewhere:</b>{" "}
        {desk.failure.message.replace(/^plan: /, "")}.
        <button className="quiet ml-2" onClick={desk.insist}>
          Keep what is here
        </button>
        <button className="quiet ml-1" onClick={desk.giveWay}>
          Take what is there
        </button>
      </p>
    );
  if (desk.failure && !away)
    return (
      <p role="alert" className="border-b border-stop bg-sheet px-4 py-1.5 text-[13px]">
        <b className="text-stop">■ Not possible:</b> {inWords(desk.failure.message, settings)}{" "}
        {desk.canUndo && (
          <button className="quiet ml-2" onClick={desk.undo}>
            Undo the change
          </button>
        )}
        {plan.latest.state === "failed" && (
          <button
            className="quiet ml-2"
            onClick={() => {
              desk.change(desk.choice);
            }}
          >
            Try again
          </button>
        )}
      </p>
    );
  if (plan.latest.state === "cancelled")
    return (
      <p role="status" className="border-b border-look bg-sheet px-4 py-1.5 text-[13px]">
        <b className="text-look">▲ Stopped.</b> The exact figures shown are of the version
        before; change anything to compute again.
      </p>
    );
  if (!desk.computing) return <div className="h-[3px] bg-hairline" aria-hidden />;
  return (
    <div
      className="relative h-[3px] bg-hairline"
      role="progressbar"
      aria-label="Computing the exact plan"
      aria-valuenow={Math.round(100 * plan.latest.share)}
    >
      <div
        className="h-full bg-fjord transition-[width]"
        style={{ width: `${Math.max(4, 100 * plan.latest.share)}%` }}
      />
    </div>
  );
}

/** What is being computed, and how to stop it: in a line that is there anyway. */
export function ProgressWords() {
  const { plan, desk } = useRoom();
  if (!desk.computing) return null;
  return (
    <p
      data-progress
      className="ml-auto flex items-center gap-2 pl-3 text-[13px] whitespace-nowrap text-ink-2"
    >
      {plan.latest.state === "queued"
        ? "waiting for a worker"
        : (WORDS[plan.latest.stage] ?? "computing")}{" "}
      …
      <button className="word" onClick={() => void desk.cancel()}>
        stop
      </button>
    </p>
  );
}
