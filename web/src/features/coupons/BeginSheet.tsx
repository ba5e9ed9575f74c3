/** A new sheet: which coupon, of which machine, material and process. */
import { useState } from "react";

import type { ApiProblem } from "../../api/client";
import type { CouponIn, Coupons } from "../../api/coupons";
import { useFarm } from "../../api/queries";
import { choicesOf } from "../../domain/records";
import { Button, Select, Trouble } from "../../ui/controls";

interface Props {
  state: Coupons;
  onBegin: (given: CouponIn) => Promise<void>;
  trouble: ApiProblem | null;
}

export function BeginSheet({ state, onBegin, trouble }: Props) {
  const farm = useFarm().data;
  const [key, choose] = useState(state.kinds[0]?.key ?? "");
  const [asked, ask] = useState<Partial<Pick<CouponIn, "machine" | "material" | "profile">>>({});
  const records = (kind: string) => choicesOf(farm?.records, kind);
  const usual = state.coverage[0]?.where;
  const where = {
    machine: asked.machine ?? usual?.machine ?? records("machine")[0]?.[0] ?? "",
    material: asked.material ?? usual?.material ?? "petg",
    profile: asked.profile === undefined ? (usual?.profile ?? null) : asked.profile,
  };
  return (
    <form
      className="space-y-1.5 border-t border-ink px-3.5 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        void onBegin({ ...where, key, rows: [] } as unknown as CouponIn);
      }}
    >
      <Select
        label="New sheet of"
        value={key}
        options={state.kinds.map((k) => [k.key, k.title] as const)}
        onPick={choose}
      />
      <Select
        label="machine"
        value={where.machine}
        options={records("machine")}
        onPick={(machine) => ask({ ...asked, machine })}
      />
      <Select
        label="material"
        value={where.material}
        options={[...Object.entries(farm?.grades ?? {}), ...records("material")]}
        onPick={(material) => ask({ ...asked, material })}
      />
      <Select
        label="process"
        value={where.profile ?? ""}
        options={[["", "starting values"], ...records("profile")]}
        onPick={(profile) => ask({ ...asked, profile: profile || null })}
      />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={!where.machine}>
        Begin
      </Button>
      {farm && !where.machine && <p className="text-second">Write a machine&apos;s record first, under farm.</p>}
    </form>
  );
}
