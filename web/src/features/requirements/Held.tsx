/** The faces that something holds, and how. */

import { type HoldRow } from "../../api/client";
import { measure } from "../../domain/figures";
import { HOWS, size3 } from "../../domain/needs";
import { Heading, Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { FaceName, Out } from "./rows";
import { useDesk } from "./state";

export function Held() {
  const { job, may, write, needs, caseId, ask } = useDesk();
  const put = (rows: (held: HoldRow[]) => unknown[]) =>
    write((j) => ({ loads: { ...j.loads, held: rows(j.loads.held) } }));
  const change = (id: string, to: Record<string, unknown>) =>
    put((held) => held.map((h) => (h.id === id ? { ...h, ...to } : h)));
  const answers = needs?.cases.find((c) => c.id === caseId)?.answers ?? [];
  const how = (h: HoldRow, value: string) => {
    if (value !== "bolted") {
      void change(h.id, { how: value, washer: null });
      return;
    }
    ask({
      kind: "spot",
      words: "Point at the place of the bolt",
      take: (centre) =>
        void change(h.id, { how: "bolted", washer: { centre, outer: h.washer?.outer.typed ?? "10 mm" } }),
    });
  };
  return (
    <div data-testid="held">
      <Heading>Held</Heading>
      {job.loads.held.length === 0 && (
        <p className="text-second">Nothing is held yet. Point at the face that holds the part, and press Fix.</p>
      )}
      {job.loads.held.length > 0 && (
        <table className="w-full border-collapse">
          <tbody>
            {job.loads.held.map((h) => {
              const answer = answers.find((a) => a.held === h.id);
              return (
                <tr key={h.id} className="border-b border-rule">
                  <td className="py-1">
                    <FaceName id={h.on} />
                  </td>
                  <td className="w-[138px]">
                    <Select
                      quiet
                      label="How it is held"
                      disabled={!may}
                      value={h.how}
                      options={HOWS}
                      onPick={(v) => how(h, v)}
                    />
                  </td>
                  <td className="w-[96px] pl-2">
                    {h.how === "fixed" &&
                      ["x", "y", "z"].map((axis) => (
                        <label key={axis} className="figure mr-1.5 inline-flex items-center gap-0.5 text-[11px]">
                          <input
                            type="checkbox"
                            className="accent-ink"
                            disabled={!may}
                            checked={h.axes.includes(axis)}
                            onChange={(e) => {
                              const axes = ["x", "y", "z"]
                                .filter((a) => (a === axis ? e.target.checked : h.axes.includes(a)))
                                .join("");
                              if (axes) void change(h.id, { axes });
                            }}
                          />
                          {axis}
                        </label>
                      ))}
                    {h.washer && (
                      <WasherSize
                        hold={h}
                        onWrite={(outer) => void change(h.id, { washer: { centre: h.washer?.centre, outer } })}
                      />
                    )}
                  </td>
                  <td
                    className="figure w-[150px] text-right"
                    title="what this face gives back in the case shown, the part taken as rigid"
                  >
                    {answer ? (
                      <>
                        {measure(size3(answer.force_n))} N
                        <br />
                        <span className="text-second">{measure(size3(answer.moment_nmm) / 1000)} N·m</span>
                      </>
                    ) : (
                      ""
                    )}
                  </td>
                  <td className="w-[22px] text-right">
                    {may && (
                      <Out what="held face" onOut={() => void put((held) => held.filter((x) => x.id !== h.id))} />
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}

function WasherSize({ hold, onWrite }: { hold: HoldRow; onWrite: (outer: string) => void }) {
  const [text, setText] = useDraft(hold.washer?.outer.typed ?? "");
  return (
    <input
      aria-label="Outer diameter of the washer"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== hold.washer?.outer.typed && onWrite(text)}
      className="figure w-full border border-bark bg-raised px-1"
    />
  );
}
