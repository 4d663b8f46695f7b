import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Suspense, useEffect, useState } from "react";
import { Route, Switch } from "wouter";
import { isPassing, pauseBefore } from "../api/client";
import { firstNote } from "../api/toast";
import { later } from "../ui/later";
import * as t from "../words/texts/app/App";
import { LinkNotice } from "./LinkNotice";
import { Nowhere } from "./Nowhere";

// The drawing of models in 3D is the larger part of the page, and the list of reviews has none of it.
const DeskPage = later(() => import("../desk/DeskPage"), "DeskPage");
const IntakePage = later(() => import("../reviews/IntakePage"), "IntakePage");
const Notes = later(() => import("./Notes"), "Notes");
const StillsPage = later(() => import("../stills/StillsPage"), "StillsPage");
const HintLayer = later(() => import("../ui/HintLayer"), "HintLayer");
const ReviewsPage = later(() => import("../reviews/ReviewsPage"), "ReviewsPage");

const MOST_TRIES = 12;

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: Number.POSITIVE_INFINITY,
      retry: (failures, problem) => failures < (isPassing(problem) ? MOST_TRIES : 1),
      retryDelay: pauseBefore,
      refetchOnWindowFocus: false,
      // The server is on this machine, whatever the operating system says of its network.
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

export function App() {
  const [noted, setNoted] = useState(false);
  const [touched, setTouched] = useState(false);
  useEffect(() => {
    firstNote.then(() => setNoted(true));
    // Nobody rests on anything before the hand has moved.
    const off = new AbortController();
    for (const sign of ["pointermove", "keydown"])
      window.addEventListener(sign, () => setTouched(true), { once: true, signal: off.signal });
    return () => off.abort();
  }, []);
  return (
    <QueryClientProvider client={client}>
      <LinkNotice />
      <Suspense fallback={<p className="p-6 text-ink-2">{t.opening}</p>}>
        <Switch>
          <Route path="/reviews/:id/stills">
            {(route) => <StillsPage key={route.id} reviewId={route.id} />}
          </Route>
          <Route path="/reviews/:id">{(route) => <DeskPage key={route.id} reviewId={route.id} />}</Route>
          <Route path="/intakes/:id">{(route) => <IntakePage key={route.id} intake={route.id} />}</Route>
          <Route path="/">
            <ReviewsPage />
          </Route>
          <Route>
            <Nowhere />
          </Route>
        </Switch>
      </Suspense>
      <Suspense>{noted && <Notes />}</Suspense>
      <Suspense>{touched && <HintLayer />}</Suspense>
    </QueryClientProvider>
  );
}
