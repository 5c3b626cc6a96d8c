import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, data } from "../api/client";

/** Put plans, or parts by their newest exact plans, on a new bed, and go there. */
export function useNewBed() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (of: { plans?: number[]; parts?: number[]; copies?: number }) =>
      data(api.POST("/api/beds", { body: { copies: 1, ...of } })),
    onSuccess: (bed) => void navigate(`/beds/${bed.id}`),
  });
}
