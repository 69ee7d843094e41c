import "@fontsource-variable/figtree";
import "@fontsource-variable/bricolage-grotesque";
import "./styles.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./shell/App";
import { applyTheme } from "./shell/theme";

applyTheme();
setNonce(document.querySelector<HTMLMetaElement>("meta[name=nonce]")?.content ?? ""); // for the styles that parts of the kit put in as they open
const client = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } } });

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
