import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import { Empty } from "./States";

/** What stands at an address of nothing. */
export function Nowhere() {
  return (
    <div className="page">
      <Empty title="There is nothing at this address.">
        <p>
          <Link to="/rigs">Go to your rigs.</Link>
        </p>
      </Empty>
    </div>
  );
}

/** A page whose address holds numbers of rigs, sensors or recordings: nothing, where one is no such number. */
export function Numbered({ children }: { children: ReactNode }) {
  const isOne = ([name, value]: [string, string | undefined]) =>
    !name.endsWith("Id") || /^[1-9]\d{0,8}$/.test(value ?? "");
  return Object.entries(useParams()).every(isOne) ? children : <Nowhere />;
}
