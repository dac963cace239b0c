import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, Outlet } from "react-router";
import { RouterProvider } from "react-router/dom";
import { BenchScreen } from "./bench/BenchScreen.tsx";
import { FindsScreen } from "./finds/FindsScreen.tsx";
import { HandOverScreen } from "./hand-over/HandOverScreen.tsx";
import { IntakeScreen } from "./intake/IntakeScreen.tsx";
import { LogbookScreen } from "./logbook/LogbookScreen.tsx";
import { ModelsScreen } from "./models/ModelsScreen.tsx";
import { PracticePanel } from "./practice/PracticePanel.tsx";
import { ScanScreen } from "./scan/ScanScreen.tsx";
import { PassphraseDialog } from "./shared/PassphraseDialog.tsx";
import { TicketFrame } from "./shell/TicketFrame.tsx";
import { applyStoredTheme } from "./shell/theme.ts";
import { TablesScreen } from "./tables/TablesScreen.tsx";
import { WaysScreen } from "./ways-in/WaysScreen.tsx";
import "./styles.css";

applyStoredTheme();

/** The practice kit is docked beside whatever screen is open. */
const House = () => (
  <div className="flex h-full">
    <div className="h-full min-w-0 flex-1">
      <Outlet />
    </div>
    <PracticePanel />
    <PassphraseDialog />
  </div>
);

const screens = [
  { path: "/", element: <BenchScreen /> },
  { path: "/models", element: <ModelsScreen /> },
  {
    path: "/ticket/:id",
    element: <TicketFrame />,
    children: [
      { path: "intake", element: <IntakeScreen /> },
      { path: "ways-in", element: <WaysScreen /> },
      { path: "scan", element: <ScanScreen /> },
      { path: "finds", element: <FindsScreen /> },
      { path: "tables/:find", element: <TablesScreen /> },
      { path: "hand-over", element: <HandOverScreen /> },
      { path: "logbook", element: <LogbookScreen /> },
      { index: true, element: <Navigate to="scan" replace /> },
    ],
  },
  { path: "*", element: <Navigate to="/" replace /> },
];
const router = createBrowserRouter([{ element: <House />, children: screens }]);

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <RouterProvider router={router} />
    </StrictMode>,
  );
