/** Head, and the page below it. */
import { useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useParams } from "@tanstack/react-router";
import { useMemo } from "react";

import { useCards } from "../api/cards";
import { api } from "../api/client";
import { forgetAnswers } from "../api/offline";
import { useParts, useQueue, useSession, useSigns } from "../api/queries";
import { type Command, Commands, useCommands } from "../ui/commands";
import { turnTheme, useTheme } from "../ui/theme";
import { PartHead, PartHistory } from "./PartHead";

export function Frame() {
  return (
    <Commands>
      <Framed />
    </Commands>
  );
}

function Framed() {
  const session = useSession();
  const client = useQueryClient();
  const navigate = useNavigate();
  const theme = useTheme();
  const parts = useParts();
  const queue = useQueue();
  const signs = useSigns();
  const cards = useCards();
  const { partId } = useParams({ strict: false });
  const commands = useMemo<Command[]>(
    () => [
      { name: "All parts", keys: "l", run: () => void navigate({ to: "/" }) },
      { name: "The farm's records", keys: "f", run: () => void navigate({ to: "/farm" }) },
      { name: "The farm's week", run: () => void navigate({ to: "/week" }) },
      { name: "Gauge cards", run: () => void navigate({ to: "/cards" }) },
      { name: "Trials of the workshop", run: () => void navigate({ to: "/trials" }) },
      { name: "Practice bench", run: () => void navigate({ to: "/practice" }) },
      { name: "Coupons", run: () => void navigate({ to: "/coupons" }) },
      ...(cards.data ?? []).map((c) => ({
        name: `Card: ${c.words}`,
        run: () => void navigate({ to: "/cards/$card", params: { card: c.key }, search: {} }),
      })),
      { name: "Queue", keys: "q", run: () => void navigate({ to: "/queue" }) },
      { name: "People and log", run: () => void navigate({ to: "/people" }) },
      { name: theme === "dark" ? "Light theme" : "Dark theme", keys: "t", run: turnTheme },
      ...(parts.data ?? []).map((p) => ({
        name: `Open ${p.name}`,
        run: () => void navigate({ to: "/parts/$partId/facts", params: { partId: p.id } }),
      })),
    ],
    [navigate, theme, parts.data, cards.data],
  );
  useCommands(commands);
  const leave = async () => {
    await api.signOut();
    forgetAnswers(localStorage);
    client.clear();
    window.location.assign("/");
  };
  return (
    <div className="flex h-full flex-col">
      <header className="flex h-11 shrink-0 items-center gap-6 border-b-[1.4px] border-ink px-3.5 max-sm:gap-2">
        <Link to="/" className="w-[132px]" aria-label="Hewel, all parts">
          <span className="text-[19px] leading-none font-bold [font-stretch:115%]">Hewel</span>
          <span className="block h-[3px] w-8 bg-crown" />
        </Link>
        {partId ? (
          <PartHead id={partId} />
        ) : (
          <span className="font-semibold max-sm:hidden">{session.data?.workshop}</span>
        )}
        <span className="ml-auto flex items-center gap-3 whitespace-nowrap text-second">
          {partId && (
            <span className="max-sm:hidden">
              <PartHistory id={partId} />
            </span>
          )}
          <button type="button" onClick={turnTheme} className="underline hover:text-ink max-sm:hidden">
            {theme === "dark" ? "light theme" : "dark theme"}
          </button>
          <span title="keys" className="max-[1180px]:hidden">
            <kbd className="figure border border-bark px-1">.</kbd> search commands{" "}
            <kbd className="figure border border-bark px-1">?</kbd> keys
          </span>
          <Link to="/queue" className="underline hover:text-ink max-sm:hidden">
            queue{queue.data?.length ? <span className="figure"> {queue.data.length}</span> : null}
          </Link>
          <Link to="/week" className="underline hover:text-ink">
            week
          </Link>
          <Link to="/cards" className="underline hover:text-ink">
            cards
          </Link>
          <Link to="/trials" className="underline hover:text-ink max-sm:hidden">
            trials
          </Link>
          <Link to="/coupons" className="underline hover:text-ink max-sm:hidden">
            coupons
          </Link>
          <Link to="/practice" className="underline hover:text-ink max-[1180px]:hidden">
            practice
          </Link>
          <Link to="/farm" className="underline hover:text-ink max-sm:hidden">
            farm
          </Link>
          <Link to="/people" className="underline hover:text-ink max-sm:hidden">
            {session.data?.name}
          </Link>
          <button type="button" onClick={() => void leave()} className="underline hover:text-ink">
            sign out
          </button>
        </span>
      </header>
      {!!signs.data?.length && (
        <p className="border-b border-ink bg-raised px-5 py-1 text-crown" role="alert">
          Tell whoever keeps this Hewel running: {signs.data.join("; ")}.
        </p>
      )}
      <main className="min-h-0 flex-1">
        <Outlet />
      </main>
    </div>
  );
}
