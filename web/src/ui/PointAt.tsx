/** Over the specimen: what the pointer is asked for. */
import type { ReactNode } from "react";

export function PointAt({ children }: { children: ReactNode }) {
  return (
    <p className="absolute top-2 left-3 z-10 border-l-4 border-ochre-mark bg-raised px-3 py-1" role="status">
      {children}
    </p>
  );
}
