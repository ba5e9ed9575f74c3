import "@fontsource-variable/archivo/wdth.css";
import "@fontsource/spline-sans-mono/latin-400.css";
import "@fontsource/spline-sans-mono/latin-600.css";
import "./index.css";

import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { App } from "./app/App";
import { showTheme } from "./ui/theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content;
if (nonce) setNonce(nonce);

showTheme();
const root = document.getElementById("root");
if (!root) throw new Error("the page lacks its root element");
createRoot(root).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
