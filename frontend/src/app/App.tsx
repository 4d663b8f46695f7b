import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { Toaster } from "sonner";
import { Route, Switch } from "wouter";
import { isPassing, pauseBefore } from "../api/client";
import { DeskPage } from "../desk/DeskPage";
import { IntakePage } from "../reviews/IntakePage";
import { ReviewsPage } from "../reviews/ReviewsPage";
import { LinkNotice } from "./LinkNotice";

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
  return (
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={500}>
        <LinkNotice />
        <Switch>
          <Route path="/reviews/:id">{(route) => <DeskPage key={route.id} reviewId={route.id} />}</Route>
          <Route path="/intakes/:id">{(route) => <IntakePage key={route.id} intake={route.id} />}</Route>
          <Route>
            <ReviewsPage />
          </Route>
        </Switch>
        <Toaster
          position="bottom-center"
          offset={54}
          toastOptions={{
            className:
              "!rounded-md !border-rule-strong !bg-sheet !font-sans !text-[13px] !text-ink !shadow-lg",
            actionButtonStyle: { background: "var(--color-mark)" },
          }}
        />
      </Tooltip.Provider>
    </QueryClientProvider>
  );
}
