import { useParams } from "react-router";

import { useMachines, useMaterials, usePlan, useSettings } from "../api/hooks";
import { Message } from "../frame/Message";
import { Desk } from "./Desk";

export function DeskScreen() {
  const id = Number(useParams().id);
  const plan = usePlan(id);
  const machines = useMachines();
  const materials = useMaterials();
  const settings = useSettings();
  const error = plan.error ?? machines.error ?? materials.error ?? settings.error;
  if (error && !plan.data)
    return (
      <Message
        title="This plan cannot be opened"
        text={error.message}
        again={() => void plan.refetch()}
      />
    );
  if (!plan.data || !machines.data || !materials.data || !settings.data)
    return <Message title="Plan" text="Laying out the desk …" />;
  return (
    <Desk
      key={id}
      plan={plan.data}
      machines={machines.data}
      materials={materials.data}
      settings={settings.data}
    />
  );
}
