/** Spaces beside the part that stay free: what remedies, feet and ribs must not fill; and how much remedies may change. */
import { useState } from "react";

import { useParts } from "../../api/queries";
import { figure } from "../../domain/figures";
import { newId } from "../../domain/needs";
import { Button, Heading, Input, Select } from "../../ui/controls";
import { useDraft } from "../../ui/draft";
import { Out } from "./rows";
import { useDesk } from "./state";

const KINDS = [
  ["front", "in front of a face"],
  ["near", "all round a face"],
  ["box", "a box"],
  ["body", "another part sits there"],
] as const;
type Kind = (typeof KINDS)[number][0];

type Row = ReturnType<typeof useDesk>["job"]["spaces"]["rows"][number];

export function Spaces() {
  const { job, may, write } = useDesk();
  const parts = useParts().data ?? [];
  const rows = job.spaces.rows;
  const faceName = (id: string | null | undefined) =>
    job.regions.rows.find((r) => r.id === id)?.name ?? "a face that is gone";
  const words = (s: Row): string => {
    if (s.kind === "box") return `box ${[...(s.low ?? []), ...(s.high ?? [])].map((v) => figure(v, 1)).join(" ")} mm`;
    if (s.kind === "body") return parts.find((p) => p.id === s.part)?.name ?? "a part that is gone";
    return `${s.distance?.typed ?? ""} ${s.kind === "front" ? "in front of" : "round"} ${faceName(s.on)}${s.wider?.n ? `, ${s.wider.typed} wider` : ""}`;
  };
  return (
    <section className="mt-4" data-testid="spaces">
      <Heading aside={<MostChange />}>Spaces that stay free</Heading>
      {rows.length === 0 && (
        <p className="text-second">
          None is written. Slots, forks and the fronts of bores are kept free by themselves until somebody says
          otherwise.
        </p>
      )}
      {rows.length > 0 && (
        <table className="w-full border-collapse">
          <tbody>
            {rows.map((s) => (
              <tr key={s.id} className="border-b border-rule">
                <td className="w-[200px] py-1 font-semibold">{s.name}</td>
                <td className="text-second">{words(s)}</td>
                <td className="w-[22px] text-right">
                  {may && (
                    <Out
                      what={`space ${s.name}`}
                      onOut={() =>
                        void write((j) => ({ spaces: { rows: j.spaces.rows.filter((x) => x.id !== s.id) } }))
                      }
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {may && <NewSpace />}
    </section>
  );
}

/** Share of the volume that remedies together may add and take away. */
function MostChange() {
  const { job, may, write } = useDesk();
  const [text, setText] = useDraft(String(Math.round(1000 * job.need.most_change) / 10));
  const share = Number(text.replace(",", ".")) / 100;
  const good = share >= 0.005 && share <= 1;
  return (
    <label className="narrow flex items-center gap-1.5 text-second">
      remedies change at most
      <input
        aria-label="Most change by remedies, % of the volume"
        disabled={!may}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() =>
          good && share !== job.need.most_change && void write((j) => ({ need: { ...j.need, most_change: share } }))
        }
        className={`figure h-6 w-12 border bg-raised px-1.5 text-right ${good ? "border-bark" : "border-crown"}`}
      />
      % of the volume
    </label>
  );
}

function NewSpace() {
  const { job, part, write } = useDesk();
  const parts = (useParts().data ?? []).filter((p) => p.id !== part.id);
  const [kind, setKind] = useState<Kind>("front");
  const [name, setName] = useState("");
  const [on, setOn] = useState("");
  const [far, setFar] = useState("5 mm");
  const [wider, setWider] = useState("");
  const [text, setText] = useState("");
  const [turn, setTurn] = useState("");
  const [other, setOther] = useState("");
  const faces = job.regions.rows.map((r) => [r.id, r.name] as const);
  const numbers = text
    .trim()
    .replaceAll("−", "-")
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number);
  const whole = numbers.length === 6 && numbers.every(Number.isFinite);
  const turned = turn
    .trim()
    .replaceAll("−", "-")
    .split(/[\s,;°]+/)
    .filter(Boolean)
    .map(Number);
  const turns = turned.length === 7 && turned.every(Number.isFinite);
  const chosen = on || (faces[0]?.[0] ?? "");
  const ready =
    kind === "box"
      ? whole
      : kind === "body"
        ? (numbers.length === 0 || whole) && (turned.length === 0 || turns) && other !== ""
        : chosen !== "" && far.trim() !== "";
  const add = async () => {
    const called = name.trim() || `space ${job.spaces.rows.length + 1}`;
    const base = { id: newId(), name: called, kind };
    const row =
      kind === "box"
        ? { ...base, low: numbers.slice(0, 3), high: numbers.slice(3) }
        : kind === "body"
          ? {
              ...base,
              part: other,
              shift: whole ? numbers.slice(0, 3) : [0, 0, 0],
              way: whole ? numbers.slice(3) : [0, 0, 0],
              turn: turns ? { about: turned.slice(0, 3), axis: turned.slice(3, 6), degrees: turned[6] } : null,
            }
          : {
              ...base,
              on: chosen,
              distance: { typed: far },
              wider: kind === "front" && wider.trim() ? { typed: wider } : null,
            };
    if (!(await write((j) => ({ spaces: { rows: [...j.spaces.rows, row] } })))) return;
    setName("");
    setText("");
    setTurn("");
  };
  return (
    <form
      className="mt-2 grid grid-cols-[150px_1fr_110px_auto] items-end gap-2"
      data-testid="new-space"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Select label="what stays free" value={kind} options={KINDS} onPick={(k) => setKind(k as Kind)} />
      {(kind === "front" || kind === "near") &&
        (faces.length === 0 ? (
          <p className="text-second">Point at a face on the part and press Keep free first.</p>
        ) : (
          <div className="grid grid-cols-[1fr_70px_70px] gap-2">
            <Select label="face" value={chosen} options={faces} onPick={setOn} />
            <Input label="reaches" value={far} onChange={(e) => setFar(e.target.value)} />
            {kind === "front" ? (
              <Input label="wider" value={wider} placeholder="0 mm" onChange={(e) => setWider(e.target.value)} />
            ) : (
              <span />
            )}
          </div>
        ))}
      {kind === "box" && (
        <Input
          label="x y z to x y z, mm"
          value={text}
          placeholder="−10 −10 0  10 10 5"
          onChange={(e) => setText(e.target.value)}
        />
      )}
      {kind === "body" && (
        <div className="grid grid-cols-[1fr_1fr_1fr] gap-2">
          <Select
            label="part"
            value={other}
            options={[["", "choose a part"], ...parts.map((p) => [p.id, p.name] as const)]}
            onPick={setOther}
          />
          <Input
            label="moved by x y z, runs x y z, mm"
            value={text}
            placeholder="0 0 0  0 0 20"
            onChange={(e) => setText(e.target.value)}
          />
          <Input
            label="turns about x y z, axis x y z, °"
            value={turn}
            placeholder="0 0 0  0 1 0  90"
            onChange={(e) => setTurn(e.target.value)}
          />
        </div>
      )}
      <Input label="called" value={name} maxLength={80} onChange={(e) => setName(e.target.value)} />
      <Button plain type="submit" disabled={!ready}>
        Add
      </Button>
    </form>
  );
}
