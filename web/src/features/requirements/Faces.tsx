/** Named faces of the part and their duties; a region can be typed as a box too. */
import { useState } from "react";

import { figure, measure } from "../../domain/figures";
import { DUTIES, FITS, axisWords, freeColour, newId } from "../../domain/needs";
import { toVec3 } from "../../domain/vectors";
import { Button, Heading, Input, Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { Chip } from "./Chip";
import { Spaces } from "./Spaces";
import { Out } from "./rows";
import { useDesk } from "./state";

export function Faces() {
  const { job, may, write, needs } = useDesk();
  const rows = job.regions.rows;
  const put = (id: string, to: Record<string, unknown>) =>
    write((j) => ({ regions: { rows: j.regions.rows.map((r) => (r.id === id ? { ...r, ...to } : r)) } }));
  return (
    <>
      <Heading>Surface functions</Heading>
      <Duties />
      <div className="mt-4">
        <Heading>Named faces</Heading>
        {rows.length === 0 && <p className="text-second">No face is named yet. Point at one on the part.</p>}
        {rows.length > 0 && (
          <table className="w-full border-collapse" data-testid="faces">
            <tbody>
              {rows.map((r) => {
                const caught = needs?.regions.find((x) => x.id === r.id);
                return (
                  <tr key={r.id} className="border-b border-rule">
                    <td className="w-5 py-1">
                      <Chip colour={r.colour} />
                    </td>
                    <td className="w-[220px]">
                      <Name name={r.name} disabled={!may} onWrite={(name) => void put(r.id, { name })} />
                    </td>
                    <td className="pl-3 text-second">
                      {Object.keys(r.shape)[0]?.replace("patch", "face")}
                      {caught?.diameter_mm ? (
                        <>
                          {" "}
                          ⌀ <span className="figure">{figure(caught.diameter_mm, 2)}</span> mm
                        </>
                      ) : null}
                      {caught?.axis && ` ${axisWords(toVec3(caught.axis))}`}
                    </td>
                    <td className="figure text-right">{caught ? `${measure(caught.area_mm2)} mm²` : ""}</td>
                    <td className="w-[22px] text-right">
                      {may && (
                        <Out
                          what={`face ${r.name}`}
                          onOut={() =>
                            void write((j) => ({ regions: { rows: j.regions.rows.filter((x) => x.id !== r.id) } }))
                          }
                        />
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        )}
        {may && <NewBox />}
      </div>
      <Spaces />
    </>
  );
}

function Name({ name, disabled, onWrite }: { name: string; disabled: boolean; onWrite: (name: string) => void }) {
  const [text, setText] = useDraft(name);
  return (
    <input
      aria-label="Name of the face"
      disabled={disabled}
      value={text}
      maxLength={80}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== name && onWrite(text)}
      className="w-full border border-transparent bg-transparent px-1 font-semibold hover:border-bark focus:border-bark"
    />
  );
}

function Duties() {
  const { job, may, write } = useDesk();
  const rows = job.touching.rows;
  const put = (next: (now: typeof rows) => unknown[]) =>
    write((j) => ({ touching: { ...j.touching, rows: next(j.touching.rows) } }));
  const change = (id: string, to: Record<string, unknown>) =>
    put((now) => now.map((r) => (r.id === id ? { ...r, ...to } : r)));
  const wants = job.requirements.rows.map((r) => [r.id, r.statement.slice(0, 40)] as const);
  if (rows.length === 0)
    return (
      <p className="text-second">
        No face has a function yet. Point at one that is seen, seals or mates, and press Surface function.
      </p>
    );
  return (
    <table className="w-full border-collapse" data-testid="duties">
      <tbody>
        {rows.map((t) => {
          const region = job.regions.rows.find((r) => r.id === t.on);
          const round = region && "cylinder" in region.shape;
          return (
            <tr key={t.id} className="border-b border-rule align-middle">
              <td className="w-[118px] py-1">
                <span className="flex items-center gap-1.5">
                  {region ? <Chip colour={region.colour} /> : null}{" "}
                  {region?.name ?? <span className="text-crown">face is gone</span>}
                </span>
              </td>
              <td className="w-[126px]">
                <Select
                  quiet
                  label="Surface function"
                  disabled={!may}
                  value={t.duty}
                  options={DUTIES}
                  onPick={(duty) => void change(t.id, { duty })}
                />
              </td>
              <td className="w-[104px] pl-1.5">
                {(round || t.duty === "mating") && (
                  <Select
                    quiet
                    label="Fit"
                    disabled={!may}
                    value={t.fit ?? ""}
                    options={FITS}
                    onPick={(fit) => void change(t.id, { fit: fit || null })}
                  />
                )}
              </td>
              <td className="w-[92px] pl-1.5">
                <Words label="Mate" value={t.mate} disabled={!may} onWrite={(mate) => void change(t.id, { mate })} />
              </td>
              <td className="pl-2">
                <Select
                  quiet
                  label="Covers"
                  disabled={!may}
                  value={t.requirement ?? ""}
                  options={[["", "no requirement"], ...wants]}
                  onPick={(v) => void change(t.id, { requirement: v || null })}
                />
              </td>
              <td className="w-[22px] text-right">
                {may && (
                  <Out what="this surface function" onOut={() => void put((now) => now.filter((x) => x.id !== t.id))} />
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Words({
  label,
  value,
  disabled,
  onWrite,
}: {
  label: string;
  value: string;
  disabled: boolean;
  onWrite: (value: string) => void;
}) {
  const [text, setText] = useDraft(value);
  return (
    <input
      aria-label={label}
      placeholder={label.toLowerCase()}
      disabled={disabled}
      value={text}
      maxLength={400}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onWrite(text)}
      className="h-6 w-full border border-bark bg-raised px-1.5 placeholder:text-second"
    />
  );
}

function NewBox() {
  const { write } = useDesk();
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const numbers = text
    .trim()
    .replaceAll("−", "-")
    .split(/[\s,;]+/)
    .map(Number);
  const whole = numbers.length === 6 && numbers.every(Number.isFinite);
  const add = async () => {
    const shape = { box: [numbers.slice(0, 3), numbers.slice(3)] };
    if (
      !(await write((j) => ({
        regions: {
          rows: [
            ...j.regions.rows,
            {
              id: newId(),
              name: name.trim() || `box ${j.regions.rows.length + 1}`,
              colour: freeColour(j.regions.rows),
              shape,
            },
          ],
        },
      })))
    )
      return;
    setText("");
    setName("");
  };
  return (
    <form
      className="mt-2 grid grid-cols-[1fr_150px_auto] items-end gap-2"
      data-testid="new-box"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Input
        label="or the surface inside a box, x y z to x y z, mm"
        value={text}
        placeholder="−10 −10 0  10 10 5"
        onChange={(e) => setText(e.target.value)}
      />
      <Input label="called" value={name} maxLength={80} onChange={(e) => setName(e.target.value)} />
      <Button plain type="submit" disabled={!whole}>
        Add
      </Button>
    </form>
  );
}
