/** A new sheet: which coupon, of which machine, material and process. */
import { useState } from "react";

import type { ApiProblem } from "../../api/client";
import type { CouponIn, Coupons } from "../../api/coupons";
import { Button, Select, Trouble } from "../../ui/controls";
import { named } from "./Coverage";

interface Props {
  state: Coupons;
  onBegin: (given: CouponIn) => Promise<void>;
  trouble: ApiProblem | null;
}

export function BeginSheet({ state, onBegin, trouble }: Props) {
  const [key, choose] = useState(state.kinds[0]?.key ?? "");
  const [at, setAt] = useState(0);
  const where = state.coverage[at]?.where;
  return (
    <form
      className="space-y-1.5 border-t border-ink px-3.5 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (where) void onBegin({ ...where, key, rows: [] } as unknown as CouponIn);
      }}
    >
      <Select
        label="New sheet of"
        value={key}
        options={state.kinds.map((k) => [k.key, k.title] as const)}
        onPick={choose}
      />
      <Select
        label="printed on"
        value={String(at)}
        options={state.coverage.map((c, i) => [String(i), named(c.names)] as const)}
        onPick={(i) => setAt(Number(i))}
      />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={!where}>
        Begin
      </Button>
      {!where && <p className="text-second">Bring a part in first, or write a capability record.</p>}
    </form>
  );
}
