import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, data } from "../api/client";

/** Put plans on a new bed, and go there. */
export function useNewBed() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (plans: readonly number[]) =>
      data(api.POST("/api/beds", { body: { plans: [...plans], copies: 1 } })),
    onSuccess: (bed) => void navigate(`/beds/${bed.id}`),
  });
}
