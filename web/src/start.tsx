import { hashKey, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { ApiProblem, standing, standingIn } from "./api/client";
import { router } from "./router";

const ME = "/api/me";

/** Hand a question's own branch to its request, whatever the address bar says by the time it is sent. */
const inItsBranch = {
  onFetch(context: { fetchFn: () => unknown }, query: { queryHash: string; queryKey: readonly unknown[] }) {
    if (query.queryKey[0] === ME) return;
    const [stand] = JSON.parse(query.queryHash) as [string];
    const fetch = context.fetchFn;
    context.fetchFn = () => standingIn(stand, fetch);
  },
};

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      behavior: inItsBranch as never,
      // The same question has another answer in another branch; who asks does not depend on it.
      queryKeyHashFn: (key) => hashKey(key[0] === ME ? key : [standing(), ...key]),
      retry: (count, error) => count < 2 && !(error instanceof ApiProblem && error.problem.status >= 400),
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
}
