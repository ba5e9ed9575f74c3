/** What waits and what is being done for the workshop: what it is, whose, since when, its place in the line. */
import { useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";

import { type QueueRow, api } from "../../api/client";
import { useQueue, useSend, useSession } from "../../api/queries";
import { moment } from "../../domain/figures";
import { mayEdit } from "../../domain/roles";
import { Heading, Progress, Trouble } from "../../ui/controls";

const LANES = [
  ["quick", "first answers", "Taken before anything long, by workers that take nothing else."],
  ["long", "long work", "Remedies, pieces, full strength checks: one at a time, workshops in turn."],
] as const;

export function Queue() {
  const queue = useQueue(true);
  const may = mayEdit(useSession().data?.role);
  const client = useQueryClient();
  const { send, trouble } = useSend();
  const stop = (row: QueueRow) =>
    void send(() => api.cancel(row.id)).then(() => client.invalidateQueries({ queryKey: ["queue"] }));
  return (
    <div className="h-full space-y-5 overflow-y-auto p-5">
      <Heading
        aside={
          queue.data && (
            <span className="text-second">
              {queue.data.filter((r) => r.state === "running").length} running,{" "}
              {queue.data.filter((r) => r.state === "waiting").length} waiting
            </span>
          )
        }
      >
        Queue
      </Heading>
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      {queue.error && <Trouble message={queue.error.message} hint="Reload the page." />}
      {queue.isPending && <p className="text-second">Reading the queue …</p>}
      {queue.data?.length === 0 && <p className="text-second">Nothing waits, and nothing is being calculated.</p>}
      {LANES.map(([lane, name, about]) => {
        const rows = queue.data?.filter((r) => r.lane === lane) ?? [];
        if (rows.length === 0) return null;
        return (
          <section key={lane} data-testid={`lane-${lane}`}>
            <h3 className="font-bold">{name}</h3>
            <p className="narrow text-second">{about}</p>
            <table className="mt-1 w-full table-fixed border-collapse">
              <thead>
                <tr className="narrow border-b border-ink text-left text-second">
                  <th className="w-14 font-normal">place</th>
                  <th className="w-[22%] font-normal">what</th>
                  <th className="w-[22%] font-normal">part</th>
                  <th className="w-36 font-normal">ordered by</th>
                  <th className="w-32 font-normal">since</th>
                  <th className="font-normal">how far</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((r) => (
                  <tr key={r.id} className="border-b border-rule">
                    <td className="figure py-1">{r.state === "running" ? "now" : (r.place ?? "–")}</td>
                    <td className="truncate">{r.words}</td>
                    <td className="truncate font-semibold">
                      {r.part ? (
                        <Link to="/parts/$partId/facts" params={{ partId: r.part }} className="hover:underline">
                          {r.title || "open"}
                        </Link>
                      ) : (
                        r.title
                      )}
                    </td>
                    <td className="truncate text-second">{r.by}</td>
                    <td className="figure text-second">{moment(r.started ?? r.created)}</td>
                    <td>
                      <Progress
                        doing={r.state === "waiting" ? "waiting for a worker" : r.doing}
                        done={r.done}
                        total={r.total}
                        onCancel={may ? () => stop(r) : undefined}
                      />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        );
      })}
    </div>
  );
}
