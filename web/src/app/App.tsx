/** Signed in or not; then the frame and its routes. */
import { QueryCache, QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import {
  RouterProvider,
  createRootRoute,
  createRoute,
  createRouter,
  parseSearchWith,
  redirect,
  stringifySearchWith,
  useNavigate,
} from "@tanstack/react-router";

import { useExplained } from "../api/cards";
import { ApiProblem, api } from "../api/client";
import { keepAnswers } from "../api/offline";
import { useSession } from "../api/queries";
import { Cards } from "../features/cards/Cards";
import { Coupons } from "../features/coupons/Coupons";
import { Farm } from "../features/farm/Farm";
import { People } from "../features/people/People";
import { Practice } from "../features/practice/Practice";
import { Queue } from "../features/queue/Queue";
import { Shelf } from "../features/shelf/Shelf";
import { First } from "../features/signin/First";
import { Join } from "../features/signin/Join";
import { SignIn } from "../features/signin/SignIn";
import { Trials } from "../features/trials/Trials";
import { Traveller } from "../features/week/Traveller";
import { Week } from "../features/week/Week";
import { Explanations } from "../ui/Explained";
import { Trouble } from "../ui/controls";
import { Frame } from "./Frame";
import { StagePage, Workspace } from "./Workspace";
import { type StageKey, viewOf } from "./stages";

const client: QueryClient = new QueryClient({
  queryCache: new QueryCache({
    onError: (error, query) => {
      // Whoever is signed out while the page is open is shown the sign-in, and comes back to where they were.
      if (error instanceof ApiProblem && error.status === 401 && query.queryKey[0] !== "session")
        void client.invalidateQueries({ queryKey: ["session"] });
    },
  }),
  defaultOptions: { queries: { refetchOnWindowFocus: false, staleTime: 2000 } },
});

keepAnswers(client, localStorage, window.location.pathname);

const inWords = (search: Record<string, unknown>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(search).flatMap(([key, value]) => (value === undefined ? [] : [[key, String(value)]])),
  );

const root = createRootRoute();
/** Pages of the desk, below its head. */
const desk = createRoute({ getParentRoute: () => root, id: "desk", component: Frame });
const nothing = createRoute({
  getParentRoute: () => desk,
  path: "$",
  component: () => (
    <div className="p-5">
      <Trouble message="There is nothing at this address." hint="Go back to the list of parts (key l)." />
    </div>
  ),
});
const shelf = createRoute({ getParentRoute: () => desk, path: "/", component: Shelf });
const people = createRoute({ getParentRoute: () => desk, path: "/people", component: People });
const farm = createRoute({ getParentRoute: () => desk, path: "/farm", component: Farm });
const bench = createRoute({
  getParentRoute: () => desk,
  path: "/practice",
  component: Practice,
  /** The exercise that is open. */
  validateSearch: (search: Record<string, unknown>): Record<string, string> => inWords(search),
});
const queue = createRoute({ getParentRoute: () => desk, path: "/queue", component: Queue });
const week = createRoute({ getParentRoute: () => desk, path: "/week", component: Week });
/** A phone at a machine has no room for the head. */
const traveller = createRoute({ getParentRoute: () => root, path: "/plates/$order/$number", component: PlatePage });
const cards = createRoute({ getParentRoute: () => desk, path: "/cards", component: CardsPage });
const card = createRoute({
  getParentRoute: () => desk,
  path: "/cards/$card",
  component: CardPage,
  /** What was typed. */
  validateSearch: (search: Record<string, unknown>): Record<string, string> => inWords(search),
});
const coupons = createRoute({ getParentRoute: () => desk, path: "/coupons", component: CouponsPage });
const coupon = createRoute({ getParentRoute: () => desk, path: "/coupons/$sheet", component: CouponPage });
const allTrials = createRoute({ getParentRoute: () => desk, path: "/trials", component: Trials });
const workspace = createRoute({
  getParentRoute: () => desk,
  path: "/parts/$partId",
  component: Workspace,
  /** What of a stage is shown: a tab, a row, a layer. */
  validateSearch: (search: Record<string, unknown>): Record<string, string> => inWords(search),
});
const entry = createRoute({
  getParentRoute: () => workspace,
  path: "/",
  beforeLoad: ({ params }) => {
    throw redirect({ to: "/parts/$partId/facts", params: params as { partId: string } });
  },
});
/** The route of a stage. */
const stage = <Key extends StageKey>(key: Key) => {
  const view = viewOf(key);
  return createRoute({ getParentRoute: () => workspace, path: key, component: () => <StagePage view={view} /> });
};
const facts = stage("facts");
const requirements = stage("requirements");
const direction = stage("direction");
const overhangs = stage("overhangs");
const pieces = stage("pieces");
const walls = stage("walls");
const batch = stage("batch");
const strength = stage("strength");
const hardware = stage("hardware");
const fit = stage("fit");
const trials = stage("trials");
const release = stage("release");
const router = createRouter({
  // Every value is words: a number is not told from a text that looks like one, and nothing stands in quotes.
  parseSearch: parseSearchWith((words) => words),
  stringifySearch: stringifySearchWith(String),
  defaultErrorComponent: () => (
    <div className="p-5">
      <Trouble
        message="This page went wrong through a fault of ours."
        hint="Nothing that was saved is lost. Reload the page; if it happens again, go back to the list of parts (key l)."
      />
    </div>
  ),
  routeTree: root.addChildren([
    traveller,
    desk.addChildren([
      shelf,
      people,
      farm,
      queue,
      bench,
      week,
      cards,
      card,
      coupons,
      coupon,
      allTrials,
      nothing,
      workspace.addChildren([
        entry,
        facts,
        requirements,
        direction,
        overhangs,
        pieces,
        walls,
        strength,
        hardware,
        fit,
        batch,
        trials,
        release,
      ]),
    ]),
  ]),
});

function CardsPage() {
  return <Cards here={null} given={{}} onGiven={() => undefined} />;
}

function CardPage() {
  const navigate = useNavigate();
  const { card: key } = card.useParams();
  const write = (given: Record<string, string>) =>
    void navigate({ to: "/cards/$card", params: { card: key }, search: given, replace: true });
  return <Cards here={key} given={card.useSearch()} onGiven={write} />;
}

function CouponsPage() {
  return <CouponsAt here={null} />;
}

function CouponPage() {
  return <CouponsAt here={coupon.useParams().sheet} />;
}

function CouponsAt({ here }: { here: string | null }) {
  const navigate = useNavigate();
  const open = (sheet: string | null) =>
    void (sheet ? navigate({ to: "/coupons/$sheet", params: { sheet } }) : navigate({ to: "/coupons" }));
  return <Coupons here={here} onOpen={open} />;
}

function PlatePage() {
  const { order, number } = traveller.useParams();
  return <Traveller order={order} number={Number(number)} key={`${order}/${number}`} />;
}

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}

const useExplanations = (wanted: boolean) => useExplained(wanted).data;

function Gate() {
  const session = useSession();
  const first = useQuery({
    queryKey: ["first"],
    queryFn: api.isFirst,
    enabled: session.data === null,
    staleTime: Infinity,
  });
  const token = /^\/join\/([\w-]+)$/.exec(window.location.pathname)?.[1];
  if (token && !session.data) return <Join token={token} />;
  if (session.isPending) return <p className="p-5 text-second">Opening …</p>;
  if (session.data)
    return (
      <Explanations.Provider value={useExplanations}>
        <RouterProvider router={router} />
      </Explanations.Provider>
    );
  if (session.error)
    return (
      <div className="p-5">
        <Trouble
          message={session.error.message}
          hint={session.error instanceof ApiProblem ? session.error.hint : "Reload the page."}
        />
      </div>
    );
  if (first.data === undefined && first.isFetching) return <p className="p-5 text-second">Opening …</p>;
  return first.data ? <First /> : <SignIn />;
}

export function App() {
  return (
    <QueryClientProvider client={client}>
      <Gate />
    </QueryClientProvider>
  );
}
