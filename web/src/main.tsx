import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Route, Switch } from "wouter";
import { Refused } from "./api/client";
import { openOffline } from "./api/offline";
import { Elsewhere } from "./app/Elsewhere";
import { Home } from "./app/Home";
import { RefusedEvents } from "./app/Refused";
import { WaitingBar } from "./app/Waits";
import { wireLeft } from "./job/leftBehind";
import { wirePhotos } from "./job/photoBox";
import { takeAlong } from "./job/takeAlong";
import "./app/theme.css";
import { onDemand } from "./ui/onDemand";
import { showTheme } from "./ui/theme";

const OpenJob = onDemand(() => import("./app/OpenJob").then((m) => m.OpenJob));
const BookPage = onDemand(() => import("./app/BookPage").then((m) => m.BookPage));
const Ground = onDemand(() => import("./practice/Ground").then((m) => m.Ground));
const ExercisePage = onDemand(() => import("./practice/ExercisePage").then((m) => m.ExercisePage));
const Questions = onDemand(() => import("./bench/Questions").then((m) => m.Questions));

/** What the server refused it refuses again: only what did not reach it is asked once more. */
const retry = (count: number, error: Error) =>
  count < 1 && !(error instanceof Refused && error.problem.status >= 400 && error.problem.status < 500);
const queries = new QueryClient({
  defaultOptions: { queries: { retry, refetchOnWindowFocus: false, networkMode: "always" } },
});

showTheme();
takeAlong();
wirePhotos();
wireLeft();
openOffline();

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RefusedEvents />
        <WaitingBar />
        <Switch>
          <Route path="/">
            <Home />
          </Route>
          <Route path="/job/:id/:stage?">
            {(params) => <OpenJob id={params.id} stage={params.stage ?? "survey"} />}
          </Route>
          <Route path="/book">
            <BookPage />
          </Route>
          <Route path="/practice">
            <Ground />
          </Route>
          <Route path="/practice/:name/:part?">
            {(params) => <ExercisePage key={params.name} name={params.name} part={params.part ?? "kit"} />}
          </Route>
          <Route path="/bench/:question?">{(params) => <Questions question={params.question ?? "join"} />}</Route>
          <Route>
            <Elsewhere />
          </Route>
        </Switch>
      </QueryClientProvider>
    </StrictMode>,
  );
