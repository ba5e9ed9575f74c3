/** What was released of a part and its revisions: the packet, the second person's word, what two of them differ in. */
import { Link } from "@tanstack/react-router";
import { useState } from "react";

import type { Part } from "../../api/client";
import { useSend } from "../../api/queries";
import { type Release, type ReleaseState, releases as api, useAfterRelease, useDifferences } from "../../api/release";
import { moment } from "../../domain/figures";
import { Button, Heading, Input, Trouble } from "../../ui/controls";

const STATES: Readonly<Record<Release["state"], { words: string; className: string }>> = {
  asked: { words: "waits for a second person", className: "text-ochre" },
  released: { words: "released", className: "" },
  refused: { words: "refused", className: "text-crown" },
};

export function Releases({ part, told, may }: { part: Part; told: ReleaseState; may: boolean }) {
  const rows = told.releases;
  const [beside, setBeside] = useState<readonly string[]>([]);
  const [one = null, other = null] = beside;
  const differences = useDifferences(one, other).data;
  const turn = (id: string) =>
    setBeside((now) => (now.includes(id) ? now.filter((x) => x !== id) : [...now, id].slice(-2)));
  return (
    <section className="min-h-0 overflow-y-auto p-4" tabIndex={0} aria-label="Releases">
      <Heading>Releases</Heading>
      {rows.length === 0 && (
        <p className="mt-2 text-second">
          Nothing of this part has been released. A packet holds the part as it stands, its plate, its pauses and
          hardware, the report, the reckoning and everything they rest on, each file with its digest.
        </p>
      )}
      <ul className="mt-2">
        {rows.map((r) => (
          <li key={r.id} className="space-y-1 border-b border-rule py-2" data-release={r.state}>
            <p className="flex items-baseline gap-2">
              <b className={STATES[r.state].className}>{STATES[r.state].words}</b>
              <span>{r.kind === "portable" ? "portable file" : "locked process"}</span>
              <Link
                to="/parts/$partId/release"
                params={{ partId: r.part }}
                className={r.part === part.id ? "text-second" : "underline"}
              >
                rev {r.revision}
              </Link>
              <span className="ml-auto text-second">
                {r.by}, <span className="figure">{moment(r.at)}</span>
              </span>
            </p>
            <p className="text-second">
              {r.direction}
              {r.note && ` · ${r.note}`}
              {r.waiver && ` · without a trial: ${r.waiver}`}
            </p>
            {r.review && (
              <p>
                {r.reviewer ?? r.by}: {r.review}
              </p>
            )}
            {r.state === "released" && (
              <p className="flex items-baseline gap-3">
                <a href={api.packetAddress(r.id)} download className="font-semibold underline" data-testid="packet">
                  packet
                </a>
                <span className="figure truncate text-[11px] text-second" title={`SHA-256 ${r.digest}`}>
                  {r.digest.slice(0, 16)}
                </span>
                {rows.length > 1 && (
                  <label className="ml-auto flex items-center gap-1.5 text-second">
                    <input
                      type="checkbox"
                      className="accent-ink"
                      checked={beside.includes(r.id)}
                      onChange={() => turn(r.id)}
                    />
                    compare
                  </label>
                )}
              </p>
            )}
            {r.state === "asked" && may && <Review release={r} part={part.id} />}
          </li>
        ))}
      </ul>
      {one && other && (
        <div className="mt-3" data-testid="differences">
          <p className="font-semibold">What these two differ in</p>
          {!differences && <p className="text-second">Comparing …</p>}
          {differences?.length === 0 && <p className="text-second">In nothing but their time.</p>}
          <table className="w-full border-collapse">
            <tbody>
              {differences?.map((d, i) => (
                <tr key={i} className="border-b border-rule align-top">
                  <th className="py-0.5 pr-2 text-left font-normal text-second">{d.what}</th>
                  <td className="pr-2">{d.one}</td>
                  <td>{d.other}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function Review({ release, part }: { release: Release; part: string }) {
  const after = useAfterRelease();
  const { send, busy, trouble } = useSend();
  const [words, setWords] = useState("");
  const say = async (approved: boolean) => {
    await send(() => api.review(release.id, approved, words));
    await after(part);
  };
  if (release.mine)
    return (
      <p className="flex items-baseline gap-3">
        <span className="text-second">Another engineer looks at it: whoever asks does not approve.</span>
        <button
          type="button"
          className="underline"
          disabled={busy}
          onClick={() => void send(() => api.takeBack(release.id)).then(() => after(part))}
        >
          take it back
        </button>
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      </p>
    );
  return (
    <form
      className="space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        void say(true);
      }}
    >
      <Input label="What you looked at" value={words} maxLength={2000} onChange={(e) => setWords(e.target.value)} />
      <div className="flex gap-2">
        <Button type="submit" disabled={busy || words.trim().length < 3}>
          Approve
        </Button>
        <Button plain disabled={busy || words.trim().length < 3} onClick={() => void say(false)}>
          Refuse
        </Button>
      </div>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
    </form>
  );
}
