import { Empty } from "./Panel";
import { Link } from "react-router";

/** Nowhere is shown at an address that leads to nothing. */
export function Nowhere({ to, name }: { to: string; name: string }) {
  return (
    <Empty role="alert">
      There is nothing at this address. Go back to{" "}
      <Link className="underline" to={to}>
        {name}
      </Link>
      .
    </Empty>
  );
}
