/** What the lanes say in words: limits, and the values that are the same at every height. */
import { plain } from "../../format";
import { numberOr } from "../state/choice";
import type { Desk } from "../state/useDesk";
import type { LaneName } from "./settingLanes";

export interface LaneFacts {
  least: number;
  greatest: number;
  leastTime: number;
  zStep: number;
  /** What the lanes that are not drawn say in words, each a way to its editor. */
  folded: { lane: LaneName; words: string }[];
  /** What holds where a lane's setting is left open. */
  open: Partial<Record<LaneName, number>>;
}

export function laneFacts({ spec, resolved }: Desk["now"]): LaneFacts {
  const { body = {}, air = {}, pace = {} } = spec;
  const off = numberOr(air.fan_off_layers, 1);
  const words = {
    infill:
      body.build === "ordinary"
        ? `infill ${plain(numberOr(body.infill_density, 0))} % ${String(body.infill_pattern)}`
        : "open at the top, nothing inside",
    walls:
      body.build === "spiral"
        ? `one spiral wall of ${plain(numberOr(body.outer_width, 0))} mm`
        : `walls ${numberOr(body.walls, 0)} × ${plain(numberOr(body.outer_width, 0))} mm`,
    speed: `outer wall ${plain(numberOr(pace.outer_wall_speed, 0))} mm/s`,
    flow: `flow up to ${plain(resolved.safe_flow)} mm³/s`,
    nozzle_temp:
      `nozzle ${plain(resolved.first_nozzle_temp)} °C first layer, ` +
      `${plain(resolved.nozzle_temp)} °C above`,
    fan: `fan ${plain(resolved.fan)} % from layer ${off + 1}`,
  } satisfies Partial<Record<LaneName, string>>;
  return {
    least: resolved.least_height,
    greatest: resolved.greatest_height,
    leastTime: resolved.least_layer_time,
    zStep: numberOr(spec.machine?.z_step, 0.01),
    folded: Object.entries(words).map(([lane, said]) => ({
      lane: lane as LaneName,
      words: said,
    })),
    open: {
      nozzle_temp: resolved.nozzle_temp,
      fan: resolved.fan,
      flow: numberOr(spec.material?.flow, 100),
    },
  };
}
