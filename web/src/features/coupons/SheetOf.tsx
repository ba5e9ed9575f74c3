/** One coupon's sheet: the coupon with where to measure, its readings, the numbers they give, the plot of both. */
import { useMemo, useState } from "react";

import {
  type Coverage,
  type CouponIn,
  type CouponKind,
  type CouponSheet,
  type ReadingRow,
  couponsApi,
  useCouponView,
  written,
} from "../../api/coupons";
import { useSend } from "../../api/queries";
import { newId } from "../../domain/needs";
import { CROWN } from "../../domain/palette";
import { pointer } from "../../domain/pointer";
import { type Vec3, toVec3 } from "../../domain/vectors";
import { Scatter } from "../../plots/Scatter";
import { Specimen } from "../../scene/Specimen";
import { decodeShape } from "../../scene/shape";
import { Button, Trouble } from "../../ui/controls";
import { Conditions } from "./Conditions";
import { named } from "./Coverage";
import { Numbers } from "./Numbers";
import { Readings } from "./Readings";
import { Stand } from "./Stand";

interface Props {
  sheet: CouponSheet;
  kind: CouponKind;
  coverage: readonly Coverage[];
  stand: boolean;
  may: boolean;
  onRefresh: () => Promise<unknown>;
}

const UP: Vec3 = [0, 0, 1];

export function SheetOf({ sheet, kind, coverage, stand, may, onRefresh }: Props) {
  const { send, busy, trouble, setTrouble } = useSend();
  const [at, look] = useState<number | null>(null);
  const [taken, tell] = useState<string | null>(null);
  const view = useCouponView(kind.key).data;
  const shape = useMemo(() => (view ? decodeShape(view) : null), [view]);
  const marks = useMemo(
    () => kind.marks.map((place) => ({ corners: pointer(toVec3(place), 1.4), colour: CROWN })),
    [kind.marks],
  );
  const write = async (change: Partial<CouponIn>) => {
    const done = await send(() => couponsApi.amend(sheet.id, sheet.version, { ...written(sheet), ...change }));
    await onRefresh();
    return !!done;
  };
  const add = (rows: readonly Partial<ReadingRow>[]) =>
    write({
      rows: [...sheet.rows, ...rows.map((r) => ({ id: newId(), plate: "1", keep: false, values: {}, note: "", ...r }))],
    });
  const takeNumbers = async (names: string[]) => {
    const done = await send(() => couponsApi.takeNumbers(sheet.id, names));
    await onRefresh();
    if (done) tell(names.join(" "));
  };
  const leaning = coverage.find((c) => named(c.names) === named(sheet.names))?.jobs ?? 0;
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(460px,1fr)_420px] max-lg:block">
      <div className="min-h-0 overflow-y-auto border-r border-ink">
        <header className="flex items-baseline gap-3 px-4 pt-3 pb-1.5">
          <h2 className="text-[17px] font-bold">{kind.title}</h2>
          <span className="text-second">{named(sheet.names)}</span>
          <span className="narrow ml-auto">
            {(["3mf", "stl"] as const).map((file) => (
              <a
                key={file}
                href={couponsApi.fileAddress(sheet, file, "")}
                download
                className="ml-3 underline hover:text-moss"
              >
                {file.toUpperCase()} to print
              </a>
            ))}
          </span>
        </header>
        <div className="grid grid-cols-[252px_1fr] border-t border-rule">
          <div className="h-[184px] border-r border-rule">
            {shape && (
              <Specimen
                shape={shape}
                up={UP}
                limit={null}
                layer={0.4}
                ghosts={marks}
                label={`${kind.title}, as it stands on the plate`}
              />
            )}
          </div>
          <div className="px-3 py-2">
            <p>
              <b>Measure</b> at the marks. {kind.where}
            </p>
            <p className="narrow mt-1 text-second">
              Rest it a day at 23 °C. Print it with scaling, widening of bores and inset of the first layer off. A plate
              is one sample: <span className="figure">{kind.least}</span> of them at least, on different days.
            </p>
          </div>
        </div>
        <Conditions sheet={sheet} onChange={may ? (change) => void write(change) : null} />
        {trouble && (
          <div className="px-4 py-1">
            <Trouble message={trouble.message} hint={trouble.hint} />
          </div>
        )}
        <Readings
          sheet={sheet}
          kind={kind}
          at={at}
          onLook={look}
          onRows={may ? (rows) => void write({ rows }) : null}
          onAdd={may ? (rows) => void add(rows) : null}
        />
      </div>
      <div className="flex min-h-0 flex-col overflow-y-auto">
        <Numbers
          sheet={sheet}
          leaning={leaning}
          taken={taken}
          onTake={may && !busy ? (names) => void takeNumbers(names) : null}
        />
        {sheet.plot && sheet.rows.length > 0 && (
          <div className="h-[230px] shrink-0 border-t border-ink pt-1" data-testid="reading-plot">
            <Scatter
              x={sheet.plot.x}
              y={sheet.plot.y}
              points={sheet.plot.points}
              line={sheet.plot.line}
              label={`${sheet.plot.y} over ${sheet.plot.x}`}
              at={at}
              onPoint={look}
            />
          </div>
        )}
        {kind.pulled && (
          <Stand
            sheet={sheet}
            kind={kind}
            stand={stand}
            onGive={may ? (give, give_off) => write({ give, give_off }) : null}
            onReading={may ? (row) => add([row]) : null}
          />
        )}
        {trouble && (
          <p className="px-4 py-2">
            <Button plain onClick={() => setTrouble(null)}>
              Dismiss
            </Button>
          </p>
        )}
      </div>
    </div>
  );
}
