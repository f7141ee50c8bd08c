import { QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { client } from "./api/queries";
import { App } from "./app";
import "./index.css";

// style sheets that libraries make at run time carry what the content policy asks for
setNonce(document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce ?? "");

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
