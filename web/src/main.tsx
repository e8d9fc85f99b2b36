import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/bitter";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { queries } from "./api/client";
import { App } from "./app/App";
import { Boundary } from "./app/Boundary";
import { Savers } from "./saving/saver";
import { SaversProvider } from "./saving/savers";
import "./app/styles.css";

const savers = new Savers();

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <SaversProvider savers={savers}>
            <Boundary>
              <App />
            </Boundary>
          </SaversProvider>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
