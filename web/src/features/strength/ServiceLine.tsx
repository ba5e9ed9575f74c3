/** What the part meets in use: the knock-downs of its strength and the factor asked for, each with where it is said. */
import { useState } from "react";

import type { Part, Service } from "../../api/client";
import { useJobWriter } from "../../api/queries";
import { figure, typedNumber } from "../../domain/figures";
import { FormPopover } from "../../ui/FormPopover";
import { Input, Tick } from "../../ui/controls";

export function ServiceLine({ part, service, mayEdit }: { part: Part; service: Service; mayEdit: boolean }) {
  const batch = part.job.batch !== null;
  const words = (
    <>
      {service.temperature_c === null ? (
        "room temperature"
      ) : (
        <span className="figure">{figure(service.temperature_c, 0)} °C</span>
      )}
      {service.temperature_source && <span className="text-second"> ({service.temperature_source})</span>} ·{" "}
      {service.wet ? "wet" : "dry"}
      {batch && " · welds of the chosen batch"}
      {service.bond !== null && !batch && (
        <>
          {" "}
          · weld <span className="figure">{figure(service.bond, 2)}</span>
        </>
      )}{" "}
      · factor <b className="figure">{figure(service.factor, 1)}</b>{" "}
      <span className="text-second">{service.factor_source}</span>
    </>
  );
  if (!mayEdit) return <p className="narrow">{words}</p>;
  return (
    <Edit part={part} service={service}>
      {words}
    </Edit>
  );
}

function Edit({ part, service, children }: { part: Part; service: Service; children: React.ReactNode }) {
  const { write, trouble, setTrouble } = useJobWriter(part);
  const [open, setOpen] = useState(false);
  const draft = part.job.service;
  const fresh = () => ({
    temperature: draft.temperature?.typed ?? "",
    wet: draft.wet ?? false,
    bond: draft.bond === null || draft.bond === undefined ? "" : String(draft.bond),
    factor: draft.factor === null || draft.factor === undefined ? "" : String(draft.factor),
    untested: draft.untested ?? true,
  });
  const [form, setForm] = useState(fresh);
  const number = (text: string) => (text.trim() === "" ? null : typedNumber(text));
  const send = async () => {
    const done = await write(() => ({
      service: {
        temperature: form.temperature.trim() || null,
        wet: form.wet,
        bond: number(form.bond),
        factor: number(form.factor),
        untested: form.untested,
      },
    }));
    if (done) setOpen(false);
  };
  return (
    <FormPopover
      label="Service conditions and required factor"
      open={open}
      onOpen={(now) => {
        setOpen(now);
        setForm(fresh());
        setTrouble(null);
      }}
      trigger={{
        className: "narrow w-full border border-bark bg-paper px-2 py-0.5 text-left hover:bg-raised",
        title: "Service conditions and required factor",
        "data-testid": "service-line",
        children,
      }}
      onSave={send}
      trouble={trouble}
      wide="w-[360px]"
    >
      <Input
        label={`Temperature in service${service.temperature_source && !draft.temperature ? `; left empty: ${figure(service.temperature_c, 0)} °C, ${service.temperature_source}` : ""}`}
        placeholder="45 °C"
        value={form.temperature}
        onChange={(e) => setForm({ ...form, temperature: e.target.value })}
      />
      <Input
        label="Required factor; left empty: by what a failure does"
        inputMode="decimal"
        placeholder={figure(service.factor, 1)}
        value={form.factor}
        onChange={(e) => setForm({ ...form, factor: e.target.value })}
      />
      {part.job.batch ? (
        <p className="text-second">The weld of every layer is that of the batch that was chosen.</p>
      ) : (
        <Input
          label="Interlayer weld factor of the batch, share of the coupon's; needs a new check"
          inputMode="decimal"
          placeholder="1"
          value={form.bond}
          onChange={(e) => setForm({ ...form, bond: e.target.value })}
        />
      )}
      <Tick ticked={form.wet} onTick={(wet) => setForm({ ...form, wet })}>
        wet in service (counts for nylon)
      </Tick>
      <Tick ticked={form.untested} onTick={(untested) => setForm({ ...form, untested })}>
        scatter counts: 0.65 without coupons, by their number with
      </Tick>
    </FormPopover>
  );
}
