/** Coupons: what the farm has measured of itself, what is missing or old, and the sheet of each coupon. */
import { Link } from "@tanstack/react-router";

import {
  type CouponIn,
  type Coupons as State,
  couponsApi,
  useCoupon,
  useCoupons,
  useCouponsRefresh,
} from "../../api/coupons";
import { useSend, useSession } from "../../api/queries";
import { mayEdit } from "../../domain/roles";
import { Heading, Trouble } from "../../ui/controls";
import { BeginSheet } from "./BeginSheet";
import { Coverage, named } from "./Coverage";
import { SheetOf } from "./SheetOf";

interface Props {
  /** The sheet that is looked at. */
  here: string | null;
  onOpen: (sheet: string | null) => void;
}

export function Coupons({ here, onOpen }: Props) {
  const state = useCoupons();
  const session = useSession();
  const sheet = useCoupon(here);
  const { send, trouble } = useSend();
  const refresh = useCouponsRefresh();
  const may = mayEdit(session.data?.role);
  const begin = async (given: CouponIn) => {
    const made = await send(() => couponsApi.begin(given));
    if (!made) return;
    await refresh();
    onOpen(made.id);
  };
  if (state.error) return <Trouble message={state.error.message} hint="Reload the page." />;
  if (!state.data) return <p className="p-5 text-second">Reading the coupons …</p>;
  const kind = state.data.kinds.find((k) => k.key === sheet.data?.key);
  return (
    <div className="grid h-full grid-cols-[264px_1fr] max-sm:block max-sm:overflow-y-auto">
      <nav className="flex min-h-0 flex-col border-r-[1.4px] border-ink" aria-label="Coupon sheets">
        <div className="min-h-0 flex-1 overflow-y-auto p-3.5">
          <Heading>Coupons</Heading>
          <Link
            to="/coupons"
            className={`block border-b border-ink py-1 ${here === null ? "bg-lit font-semibold" : "hover:bg-raised"}`}
          >
            What the farm knows of itself
          </Link>
          <Sheets state={state.data} here={here} />
        </div>
        {may && <BeginSheet state={state.data} onBegin={begin} trouble={trouble} />}
      </nav>
      <section className="min-h-0 overflow-y-auto" aria-label="Coupon">
        {here === null && <Coverage state={state.data} onBegin={may ? (given) => void begin(given) : null} />}
        {here !== null && sheet.error && (
          <div className="p-5">
            <Trouble message={sheet.error.message} hint="Take one from the list." />
          </div>
        )}
        {sheet.data && kind && (
          <SheetOf
            key={sheet.data.id}
            sheet={sheet.data}
            kind={kind}
            coverage={state.data.coverage}
            stand={state.data.stand}
            may={may}
            onRefresh={refresh}
          />
        )}
      </section>
    </div>
  );
}

function Sheets({ state, here }: { state: State; here: string | null }) {
  if (state.sheets.length === 0)
    return (
      <p className="py-2 text-second">
        No coupon has been printed yet: every number of the machines is a starting value of the handbook.
      </p>
    );
  return (
    <ul>
      {state.sheets.map((s) => (
        <li key={s.id}>
          <Link
            to="/coupons/$sheet"
            params={{ sheet: s.id }}
            className={`block border-b border-rule py-1 ${s.id === here ? "bg-lit font-semibold" : "hover:bg-raised"}`}
          >
            {s.title}
            <span className={`narrow block font-normal ${s.id === here ? "" : "text-second"}`}>
              {named(s.names)} · <span className="figure">{s.count}</span> {s.count === 1 ? "reading" : "readings"}
              {s.printed && `, ${s.printed}`}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
