import "@fontsource/barlow/400.css";
import "@fontsource/barlow/500.css";
import "@fontsource/barlow/600.css";
import "@fontsource/barlow-semi-condensed/400.css";
import "@fontsource/barlow-semi-condensed/500.css";
import "@fontsource/barlow-semi-condensed/600.css";
import "@fontsource/spline-sans-mono/400.css";
import "@fontsource/spline-sans-mono/500.css";
import "./theme/theme.css";
import { notifyManager } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { App } from "./app/App";

// The page follows an edit before the next key or click is heard: what that edits as a whole holds this one too.
notifyManager.setScheduler(queueMicrotask);
createRoot(document.getElementById("root") as HTMLElement).render(<App />);
