import { Navigate, Route, Routes, useMatch } from "react-router";

import { useSession } from "./api/hooks";
import { Beds } from "./beds/Beds";
import { BedScreen } from "./beds/BedScreen";
import { ComparePage } from "./compare/ComparePage";
import { DeskScreen } from "./desk/DeskScreen";
import { Frame } from "./frame/Frame";
import { Message } from "./frame/Message";
import { Jobs } from "./jobs/Jobs";
import { Slip } from "./jobs/Slip";
import { ClosedOrders } from "./orders/ClosedOrders";
import { Orders } from "./orders/Orders";
import { Parts } from "./parts/Parts";
import { Plans } from "./plans/Plans";
import { Invited } from "./sign-in/Invited";
import { SignIn } from "./sign-in/SignIn";
import { WaysScreen } from "./ways/WaysScreen";
import { WorkshopScreen } from "./workshop/WorkshopScreen";

export function App() {
  const session = useSession();
  const invited = useMatch("/invited/:secret");
  if (session.isPending) return <Message title="North Pace" text="Opening the workshop …" />;
  if (session.error && !session.data)
    return (
      <Message
        title="No answer"
        text={session.error.message}
        again={() => void session.refetch()}
      />
    );
  if (invited?.params.secret && !session.data.signed_in)
    return <Invited secret={invited.params.secret} />;
  if (!session.data.signed_in) return <SignIn />;
  return (
    <Routes>
      <Route element={<Frame session={session.data} />}>
        <Route path="/parts" element={<Parts />} />
        <Route path="/plans" element={<Plans />} />
        <Route path="/plans/:id" element={<DeskScreen />} />
        <Route path="/plans/:id/ways" element={<WaysScreen />} />
        <Route path="/beds" element={<Beds />} />
        <Route path="/beds/:id" element={<BedScreen />} />
        <Route path="/compare" element={<ComparePage />} />
        <Route path="/orders" element={<Orders />} />
        <Route path="/orders/closed" element={<ClosedOrders />} />
        <Route path="/jobs" element={<Jobs />} />
        <Route path="/jobs/:id" element={<Jobs />} />
        <Route path="/jobs/:id/slip" element={<Slip />} />
        <Route path="/workshop" element={<WorkshopScreen session={session.data} />} />
        <Route
          path="/invited/:secret"
          element={
            <Message
              title="Signed in already"
              text={`You are signed in as ${session.data.name}. Sign out to use an invitation.`}
            />
          }
        />
        <Route path="*" element={<Navigate to="/parts" replace />} />
      </Route>
    </Routes>
  );
}
