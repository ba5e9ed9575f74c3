/** The workshop: its people, invitations, and the log of every write. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { type Role, api } from "../../api/client";
import { useLog, usePeople, useSend, useSession } from "../../api/queries";
import { moment } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { FormPopover } from "../../ui/FormPopover";
import { Text } from "../../ui/Text";
import { Button, Heading, Input, PasswordInput, Trouble } from "../../ui/controls";

const ROLES: readonly [Role, string][] = [
  ["engineer", "changes everything"],
  ["technician", "reads and takes files"],
  ["viewer", "reads"],
];

const addressOf = (token: string) => `${window.location.origin}/join/${token}`;

export function People() {
  const session = useSession().data;
  const people = usePeople();
  const client = useQueryClient();
  const { send, trouble } = useSend();
  const [whom, setWhom] = useState("");
  const [role, setRole] = useState<Role>("technician");
  const [link, setLink] = useState<{ whom: string; address: string; does: string } | null>(null);
  const may = mayEdit(session?.role);
  const log = useLog(may);
  const again = () =>
    Promise.all([client.invalidateQueries({ queryKey: ["people"] }), client.invalidateQueries({ queryKey: ["log"] })]);
  const invite = async () => {
    const made = await send(() => api.invite(whom, role));
    if (!made) return;
    setLink({ whom, address: addressOf(made.token), does: "lets one person in, within 14 days" });
    setWhom("");
    await again();
  };
  const lost = async (id: number, name: string) => {
    const made = await send(() => api.passwordLink(id));
    if (made) setLink({ whom: name, address: addressOf(made.token), does: "sets a new password once, within 2 days" });
  };
  return (
    <div className="stage-columns grid h-full grid-cols-[560px_1fr]">
      <section className="space-y-5 overflow-y-auto border-r border-ink p-5">
        <Heading aside={session && <Currency now={session.currency} may={may} />}>
          People of {session?.workshop}
        </Heading>
        {people.isPending && <p className="text-second">Reading the list …</p>}
        {people.error && <Trouble message={people.error.message} hint="Reload the page." />}
        {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
        {people.data && (
          <table className="w-full border-collapse" data-testid="people">
            <tbody>
              {people.data.people.map((p) => (
                <tr key={p.id} className={`border-b border-rule ${p.active ? "" : "text-second line-through"}`}>
                  <td className="py-1.5 font-semibold">{p.name}</td>
                  <td className="figure">{p.username}</td>
                  <td>
                    {may && p.username !== session?.username ? (
                      <select
                        aria-label={`Role of ${p.name}`}
                        value={p.role}
                        onChange={(e) =>
                          void send(() => api.changePerson(p.id, e.target.value as Role, p.active)).then(again)
                        }
                        className="border border-bark bg-raised px-1"
                      >
                        {ROLES.map(([r]) => (
                          <option key={r}>{r}</option>
                        ))}
                      </select>
                    ) : (
                      p.role
                    )}
                  </td>
                  <td className="text-right">
                    {may && p.active && p.username !== session?.username && (
                      <button
                        type="button"
                        className="mr-3 text-second underline hover:text-ink"
                        onClick={() => void lost(p.id, p.name)}
                      >
                        link for a new password
                      </button>
                    )}
                    {p.username === session?.username && <OwnPassword />}
                    {may && p.username !== session?.username && (
                      <button
                        type="button"
                        className="text-second underline hover:text-ink"
                        onClick={() => void send(() => api.changePerson(p.id, p.role, !p.active)).then(again)}
                      >
                        {p.active ? "remove access" : "give access again"}
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {may && (
          <form
            className="grid grid-cols-[1fr_236px_auto] items-end gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void invite();
            }}
          >
            <Input
              label="Invite"
              required
              maxLength={120}
              value={whom}
              onChange={(e) => setWhom(e.target.value)}
              placeholder="their name"
            />
            <label>
              <span className="block text-second">as</span>
              <select
                value={role}
                onChange={(e) => setRole(e.target.value as Role)}
                className="w-full border border-bark bg-raised px-2 py-1"
              >
                {ROLES.map(([r, words]) => (
                  <option key={r} value={r}>
                    {r}: {words}
                  </option>
                ))}
              </select>
            </label>
            <Button type="submit">Make a link</Button>
          </form>
        )}
        {link && (
          <div className="border-l-4 border-moss bg-raised px-3 py-2" data-testid="link">
            <p>
              Give this to {link.whom}. It {link.does}, and is shown only now.
            </p>
            <p className="figure mt-1 select-all break-all whitespace-normal">{link.address}</p>
          </div>
        )}
        {!!people.data?.invitations.length && (
          <table className="w-full border-collapse">
            <caption className="pb-1 text-left text-second">Invitations</caption>
            <tbody>
              {people.data.invitations.map((i) => (
                <tr key={i.id} className="border-b border-rule">
                  <td className="py-1">{i.whom}</td>
                  <td>{i.role}</td>
                  <td className="text-second">{i.state === "open" ? `until ${moment(i.until)}` : i.state}</td>
                  <td className="text-right">
                    {may && i.state === "open" && (
                      <button
                        type="button"
                        className="text-second underline hover:text-ink"
                        onClick={() => void send(() => api.revoke(i.id)).then(again)}
                      >
                        take back
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </section>
      <section className="flex min-h-0 flex-col p-5">
        <Heading aside={<span className="text-second">newest 200 writes</span>}>Log</Heading>
        {!may && <p className="mt-2 text-second">Engineers read the log.</p>}
        {log.error && <Trouble message={log.error.message} hint="Reload the page." />}
        <ol className="mt-2 min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Log of every write">
          {log.data?.map((e, i) => (
            <li key={i} className="grid grid-cols-[92px_110px_1fr] gap-2 border-b border-rule py-1">
              <span className="figure text-second">{moment(e.at)}</span>
              <span>{e.by}</span>
              <span className="min-w-0">
                {e.sentence}
                <details className="narrow text-second">
                  <summary className="cursor-pointer">what exactly</summary>
                  {inWords(e.before)} → {inWords(e.after)}
                </details>
              </span>
            </li>
          ))}
        </ol>
      </section>
    </div>
  );
}

/** What prices and costs are in. */
function Currency({ now, may }: { now: string; may: boolean }) {
  const client = useQueryClient();
  const { send, trouble, setTrouble } = useSend();
  const write = async (to: string) => {
    setTrouble(null);
    if (to.trim() === now) return;
    await send(() => api.changeWorkshop(to));
    await Promise.all(["session", "log"].map((key) => client.invalidateQueries({ queryKey: [key] })));
  };
  return (
    <div className="w-28">
      <Text label="prices are in" now={now} onWrite={may ? (to) => void write(to) : null} />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
    </div>
  );
}

/** What a line of the log holds, as words: names and values, lists with commas, nothing of its notation. */
function inWords(value: unknown): string {
  if (value === null || value === undefined || value === "") return "–";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) return value.map(inWords).join(", ") || "none";
  if (typeof value === "object")
    return Object.entries(value)
      .map(([name, held]) => `${name.replaceAll("_", " ")} ${inWords(held)}`)
      .join("; ");
  return String(value);
}

/** One's own password changed; other sessions end with the old one. */
function OwnPassword() {
  const { send, busy, trouble, setTrouble } = useSend();
  const [open, setOpen] = useState(false);
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const [done, setDone] = useState(false);
  const change = async () => {
    if ((await send(() => api.changePassword(old, fresh))) === undefined) return;
    setDone(true);
    setOpen(false);
  };
  return (
    <>
      {done && (
        <span className="mr-3 text-second" role="status">
          changed; other sessions have ended
        </span>
      )}
      <FormPopover
        label="Change password"
        open={open}
        onOpen={(now) => {
          setOpen(now);
          setOld("");
          setFresh("");
          setDone(false);
          setTrouble(null);
        }}
        trigger={{ className: "text-second underline hover:text-ink", children: "change password" }}
        onSave={change}
        busy={busy}
        trouble={trouble}
        align="end"
        wide="w-[320px]"
      >
        <PasswordInput label="Old password" value={old} onValue={setOld} />
        <PasswordInput label="New password, 10 characters or more" fresh value={fresh} onValue={setFresh} />
      </FormPopover>
    </>
  );
}
