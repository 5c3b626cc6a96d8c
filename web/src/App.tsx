import { Navigate, Route, Routes } from "react-router";

import { useSession } from "./api/hooks";
import { ComparePage } from "./compare/ComparePage";
import { DeskScreen } from "./desk/DeskScreen";
import { Frame } from "./frame/Frame";
import { Message } from "./frame/Message";
import { Jobs } from "./jobs/Jobs";
import { Slip } from "./jobs/Slip";
import { Parts } from "./parts/Parts";
import { Plans } from "./plans/Plans";
import { SignIn } from "./sign-in/SignIn";
import { WorkshopScreen } from "./workshop/WorkshopScreen";

export function App() {
  const session = useSession();
  if (session.isPending) return <Message title="North Pace" text="Opening the workshop …" />;
  if (session.error && !session.data)
    return (
      <Message
        title="No answer"
        text={session.error.message}
        again={() => void session.refetch()}
      />
    );
  if (!session.data.signed_in) return <SignIn />;
  return (
    <Routes>
      <Route element={<Frame session={session.data} />}>
        <Route path="/parts" element={<Parts />} />
        <Route path="/plans" element={<Plans />} />
        <Route path="/plans/:id" element={<DeskScreen />} />
        <Route path="/compare" element={<ComparePage />} />
        <Route path="/jobs" element={<Jobs />} />
        <Route path="/jobs/:id" element={<Jobs />} />
        <Route path="/jobs/:id/slip" element={<Slip />} />
        <Route path="/workshop" element={<WorkshopScreen />} />
        <Route path="*" element={<Navigate to="/parts" replace />} />
      </Route>
    </Routes>
  );
}
