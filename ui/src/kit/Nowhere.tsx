import { Link } from "react-router";

/** Nowhere is shown at an address that leads to nothing. */
export function Nowhere({ to, name }: { to: string; name: string }) {
  return (
    <p className="empty" role="alert">
      There is nothing at this address. Go back to{" "}
      <Link className="underline" to={to}>
        {name}
      </Link>
      .
    </p>
  );
}
