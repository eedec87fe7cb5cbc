import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Route, Switch } from "wouter";
import { Home } from "./app/Home";
import { Elsewhere, Job } from "./app/Job";
import { Bench } from "./bench/Bench";
import "./app/theme.css";

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } });

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <Switch>
          <Route path="/">
            <Home />
          </Route>
          <Route path="/job/:id/:stage?">{(params) => <Job id={params.id} stage={params.stage ?? "survey"} />}</Route>
          <Route path="/bench/:question?">{(params) => <Bench question={params.question ?? "join"} />}</Route>
          <Route>
            <Elsewhere />
          </Route>
        </Switch>
      </QueryClientProvider>
    </StrictMode>,
  );
