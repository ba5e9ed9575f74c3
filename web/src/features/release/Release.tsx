/** Release: what is still missing, two kinds of it; what was released, its packet, and the second person's word. */
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";

import { type Part, api } from "../../api/client";
import { useSend, useSession } from "../../api/queries";
import { type Kind, type ReleaseState, releases, useAfterRelease, useRelease } from "../../api/release";
import { figure } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { STAGE_NAMES, stageName } from "../../domain/stages";
import { Explained } from "../../ui/Explained";
import { useView } from "../../ui/address";
import { Button, Heading, Input, Progress, Tabs, Trouble } from "../../ui/controls";
import { Releases } from "./Releases";

const KINDS = ["portable", "locked"] as const;
const WORDS: Readonly<Record<Kind, string>> = {
  portable: "The geometry alone. It needs no generated support and holds with generic settings, on any machine.",
  locked:
    "The geometry with its process: perimeters, infill, the plate with every copy, order, pauses. Printed otherwise, nothing here holds for it.",
};

export function Release({ part }: { part: Part }) {
  const known = useRelease(part);
  const after = useAfterRelease();
  const navigate = useNavigate();
  const may = mayEdit(useSession().data?.role);
  const [kind, setKind] = useView("kind", KINDS);
  const { send, busy, trouble, setTrouble } = useSend();
  const [waiver, setWaiver] = useState("");
  const [note, setNote] = useState("");
  const told = known.data;
  if (known.error)
    return (
      <div className="p-5">
        <Trouble message={known.error.message} hint="Reload the page." />
      </div>
    );
  if (!told) return <p className="p-5 text-second">Looking at everything that it rests on …</p>;
  const lines = told.kinds.find((k) => k.kind === kind)?.missing ?? [];
  const waived = waiver.trim().length >= told.least_reason;
  const left = lines.filter((m) => !(m.key === "trial" && waived));
  const release = async () => {
    const made = await send(() => releases.release(part.id, part.version, kind, waiver, note));
    if (made) {
      setWaiver("");
      setNote("");
    }
    await after(part.id);
  };
  const begin = async () => {
    const made = await send(() => api.beginBeside(part.id));
    await after(part.id);
    if (made) void navigate({ to: "/parts/$partId/facts", params: { partId: made.id } });
  };
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] max-md:block max-md:overflow-y-auto">
      <section
        className="flex min-h-0 flex-col gap-3 overflow-y-auto border-r border-ink p-4"
        tabIndex={0}
        aria-label="Gate"
      >
        <Heading
          aside={
            <a href={releases.reportAddress(part.id)} className="text-second underline hover:text-ink" download>
              report of it as it stands
            </a>
          }
        >
          Release
        </Heading>
        {told.frozen ? (
          <div className="border-l-4 border-ink bg-raised px-3 py-2" data-testid="frozen">
            <p className="font-semibold">Released: this job is read only.</p>
            <p className="text-second">
              What is to be changed is changed on a revision beside it; all of this comes along.
            </p>
            {may && (
              <Button className="mt-1.5" disabled={busy} onClick={() => void begin()}>
                Begin a revision beside it
              </Button>
            )}
          </div>
        ) : (
          <>
            <Tabs
              label="Kind of release"
              tabs={[
                ["portable", "portable file"],
                ["locked", "locked process"],
              ]}
              here={kind}
              onPick={setKind}
            />
            <p className="text-second">{WORDS[kind]}</p>
            {kind === "portable" && told.generic.loaded && (
              <Generic
                told={told}
                may={may}
                onCalculate={() => void send(() => releases.generic(part.id)).then(() => known.refetch())}
              />
            )}
            <div data-testid="missing">
              <p className="border-b-[1.4px] border-ink pb-0.5 font-semibold">
                {left.length === 0
                  ? "Nothing is missing."
                  : `${left.length} ${left.length === 1 ? "thing is" : "things are"} missing`}
              </p>
              <ul>
                {left.map((m) => (
                  <li
                    key={`${m.key} ${m.words}`}
                    className="flex items-baseline gap-3 border-b border-rule py-1"
                    data-missing={m.key}
                  >
                    <span className="flex-1">{m.words}</span>
                    {m.stage !== "release" && m.stage in STAGE_NAMES && (
                      <Link
                        to={`/parts/$partId/${m.stage}` as "/parts/$partId/facts"}
                        params={{ partId: part.id }}
                        search={m.tab ? { tab: m.tab } : {}}
                        className="shrink-0 underline"
                      >
                        {stageName(m.stage)}
                      </Link>
                    )}
                  </li>
                ))}
              </ul>
            </div>
            {may && (
              <form
                className="space-y-2"
                onSubmit={(e) => {
                  e.preventDefault();
                  void release();
                }}
              >
                {lines.some((m) => m.key === "trial") && (
                  <Input
                    label="Without a trial printed as the batch will be, because"
                    value={waiver}
                    maxLength={2000}
                    placeholder="only where one would show nothing more"
                    onChange={(e) => setWaiver(e.target.value)}
                  />
                )}
                <Input
                  label="Note for whoever gets it"
                  value={note}
                  maxLength={2000}
                  onChange={(e) => setNote(e.target.value)}
                />
                {told.injures && (
                  <p className="text-ochre">
                    It could injure somebody: a second engineer looks at it before the packet is given out.
                  </p>
                )}
                <Button type="submit" disabled={busy || left.length > 0}>
                  {told.injures ? "Ask for the release" : "Release"}
                </Button>
              </form>
            )}
          </>
        )}
        {trouble && (
          <div onClick={() => setTrouble(null)}>
            <Trouble message={trouble.message} hint={trouble.hint} />
          </div>
        )}
      </section>
      <Releases part={part} told={told} may={may} />
    </div>
  );
}

/** The reserve that a portable file is held against. */
function Generic({ told, may, onCalculate }: { told: ReleaseState; may: boolean; onCalculate: () => void }) {
  const { reserve, busy, case: under } = told.generic;
  return (
    <div className="border-l-4 border-ochre-mark bg-raised px-3 py-1.5" data-testid="generic">
      <p>
        With generic settings:{" "}
        {reserve === null ? (
          <span className="text-second">{busy ? "being calculated" : "not calculated yet"}</span>
        ) : (
          <>
            <Explained of="portable">reserve</Explained>{" "}
            <b className={`figure ${reserve < 1 ? "text-crown" : ""}`}>{figure(reserve, 2)}</b>{" "}
            <span className="text-second">under {under}</span>
          </>
        )}
      </p>
      {busy && <Progress doing="solving with generic settings" done={0} total={0} />}
      {reserve === null && !busy && may && (
        <Button plain className="mt-1 !py-0.5" onClick={onCalculate}>
          Calculate with generic settings
        </Button>
      )}
    </div>
  );
}
