import type { ReactNode } from "react";

/** A panel that opens over what stands below it, so that nothing moves under the pointer. */
export function Over({ children }: { children: ReactNode }) {
  return <div className="over">{children}</div>;
}
