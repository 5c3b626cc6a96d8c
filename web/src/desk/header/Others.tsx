import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { api, data } from "../../api/client";
import { useRoom } from "../state/room";

/** How often this screen says that it is there (ms). */
const EVERY = 4000;

/** Who else has the plan open; what they change is shown once nothing is being changed here. */
export function Others() {
  const { plan, desk } = useRoom();
  const client = useQueryClient();
  const { id } = plan;
  const here = useQuery({
    queryKey: ["others", id],
    queryFn: () => data(api.POST("/api/plans/{id}/others", { params: { path: { id } } })),
    refetchInterval: EVERY,
    gcTime: 0,
  });
  const newer = (here.data?.number ?? 0) > plan.latest.number && !desk.computing;
  useEffect(() => {
    if (newer) void client.invalidateQueries({ queryKey: ["plan", id] });
  }, [client, id, newer]);
  const names = here.data?.others ?? [];
  if (!names.length) return null;
  return (
    <span role="status" className="text-[13px] font-normal text-look">
      · also here: {names.join(", ")}
    </span>
  );
}
