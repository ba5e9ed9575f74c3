/** Sizes of standard hardware: an item's sizes down, its numbers across; what is not sure is marked and says why. */
import { Link } from "@tanstack/react-router";

import { useSizes } from "../../api/cards";
import { useFarm } from "../../api/queries";
import { itemWords } from "../../domain/records";
import { Select, Trouble } from "../../ui/controls";

interface Props {
  item: string;
  onItem: (item: string) => void;
}

export function Sizes({ item, onItem }: Props) {
  const sizes = useSizes();
  const farm = useFarm();
  if (sizes.error) return <Trouble message={sizes.error.message} hint="Reload the page." />;
  if (!sizes.data) return <p className="text-second">Reading the sizes …</p>;
  const items = [...new Set(sizes.data.map((s) => s.item))];
  const here = items.includes(item) ? item : (items[0] ?? "");
  const rows = sizes.data.filter((s) => s.item === here);
  const keys = [...new Set(rows.map((s) => s.key))];
  const names = [...new Set(rows.map((s) => s.size))];
  const sources = [...new Set(rows.map((s) => s.source))];
  const own = (farm.data?.records ?? []).filter((r) => r.kind === "size" && itemWords(r.record.item) === here);
  const doubts = [...new Set(rows.filter((s) => s.doubtful).map((s) => (s.note ? `${s.sure}: ${s.note}` : s.sure)))];
  return (
    <article className="max-w-[900px] border border-ink bg-raised p-4" data-testid="sizes">
      <header className="flex items-end justify-between border-b border-ink pb-2">
        <Select label="Item" value={here} options={items.map((i) => [i, i] as const)} onPick={onItem} />
        <Link to="/cards" className="underline sm:hidden">
          all cards
        </Link>
      </header>
      <div className="overflow-x-auto pt-2">
        <table className="border-collapse">
          <thead>
            <tr className="narrow text-right align-bottom text-second">
              <th className="pr-4 text-left font-normal">size</th>
              {keys.map((key) => (
                <th key={key} className="max-w-24 pl-4 font-normal">
                  {key}, {rows.find((s) => s.key === key)?.unit}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {names.map((name) => (
              <tr key={name} className="border-t border-rule text-right" data-size={name}>
                <th className="py-0.5 pr-4 text-left">{name}</th>
                {keys.map((key) => {
                  const found = rows.find((s) => s.size === name && s.key === key);
                  return (
                    <td key={key} className="figure pl-4" title={found && `${found.source}; ${found.sure}`}>
                      {found ? found.value : "–"}
                      {found?.doubtful && <span className="text-ochre">?</span>}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <footer className="space-y-1 pt-3 text-second">
        {own.length > 0 && (
          <p className="text-ink" data-testid="own-sizes">
            Of this workshop, before those above:{" "}
            {own.map((r, i) => (
              <span key={r.id}>
                {i > 0 && "; "}
                <b>{r.record.size}</b>{" "}
                {Object.entries(r.values)
                  .filter(([, v]) => v.given)
                  .map(([key, v]) => `${itemWords(key)} ${v.value}`)
                  .join(", ")}
              </span>
            ))}
          </p>
        )}
        <p>
          <Link to="/farm" search={{ kind: "size" }} className="underline">
            sizes of your own
          </Link>
        </p>
        <p>{sources.join("; ")}</p>
        {doubts.length > 0 && (
          <p>
            <span className="figure text-ochre">?</span> measure before it counts: {doubts.join("; ")}
          </p>
        )}
      </footer>
    </article>
  );
}
