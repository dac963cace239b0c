import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate } from "react-router";
import { RouterProvider } from "react-router/dom";
import { BenchScreen } from "./bench/BenchScreen.tsx";
import { FindsScreen } from "./finds/FindsScreen.tsx";
import { HandOverScreen } from "./hand-over/HandOverScreen.tsx";
import { IntakeScreen } from "./intake/IntakeScreen.tsx";
import { ScanScreen } from "./scan/ScanScreen.tsx";
import { TicketFrame } from "./shell/TicketFrame.tsx";
import { applyStoredTheme } from "./shell/theme.ts";
import { WaysScreen } from "./ways-in/WaysScreen.tsx";
import "./styles.css";

applyStoredTheme();

const router = createBrowserRouter([
  { path: "/", element: <BenchScreen /> },
  {
    path: "/ticket/:id",
    element: <TicketFrame />,
    children: [
      { path: "intake", element: <IntakeScreen /> },
      { path: "ways-in", element: <WaysScreen /> },
      { path: "scan", element: <ScanScreen /> },
      { path: "finds", element: <FindsScreen /> },
      { path: "hand-over", element: <HandOverScreen /> },
      { index: true, element: <Navigate to="scan" replace /> },
    ],
  },
  { path: "*", element: <Navigate to="/" replace /> },
]);

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <RouterProvider router={router} />
    </StrictMode>,
  );
