import type { Finding, Plan } from "../../api/client";

/** The acknowledgement that holds for a finding: of the same kind, while it still says the same. */
export const acknowledgementOf = (plan: Plan, finding: Finding) =>
  plan.acknowledgements.find(
    (entry) => entry.code === finding.code && entry.message === finding.message,
  );
