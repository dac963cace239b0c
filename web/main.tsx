import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, Outlet, type RouteObject } from "react-router";
import { RouterProvider } from "react-router/dom";
import { BenchScreen } from "./bench/BenchScreen.tsx";
import { CalendarScreen } from "./calendar/CalendarScreen.tsx";
import { CallsScreen } from "./calls/CallsScreen.tsx";
import { ContactsScreen } from "./contacts/ContactsScreen.tsx";
import { ConversationsScreen } from "./conversations/ConversationsScreen.tsx";
import { FindsScreen } from "./finds/FindsScreen.tsx";
import { HandOverScreen } from "./hand-over/HandOverScreen.tsx";
import { IntakeScreen } from "./intake/IntakeScreen.tsx";
import { LogbookScreen } from "./logbook/LogbookScreen.tsx";
import { MeaningScreen } from "./meaning/MeaningScreen.tsx";
import { ModelsScreen } from "./models/ModelsScreen.tsx";
import { PersonScreen } from "./person/PersonScreen.tsx";
import { PracticePanel } from "./practice/PracticePanel.tsx";
import { ScanScreen } from "./scan/ScanScreen.tsx";
import { PassphraseDialog } from "./shared/PassphraseDialog.tsx";
import { QuestionDialog } from "./shared/QuestionDialog.tsx";
import { ErrorPage } from "./shell/ErrorPage.tsx";
import { TicketFrame } from "./shell/TicketFrame.tsx";
import { applyStoredTheme } from "./shell/theme.ts";
import { guardLeaving } from "./shell/work-under-way.ts";
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
    <QuestionDialog />
  </div>
);

const screens: RouteObject[] = [
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
      { path: "finds/conversations", element: <ConversationsScreen /> },
      { path: "finds/contacts", element: <ContactsScreen /> },
      { path: "finds/calls", element: <CallsScreen /> },
      { path: "finds/person/:address", element: <PersonScreen /> },
      { path: "finds/calendar", element: <CalendarScreen /> },
      { path: "tables/:find", element: <TablesScreen /> },
      { path: "meaning/:find", element: <MeaningScreen /> },
      { path: "hand-over", element: <HandOverScreen /> },
      { path: "logbook", element: <LogbookScreen /> },
      { index: true, element: <Navigate to="scan" replace /> },
    ],
  },
  { path: "*", element: <Navigate to="/" replace /> },
];
guardLeaving(window);

// A screen that breaks off leaves the house standing: the error page takes its place, under the strip where there is one.
const safe = (routes: readonly RouteObject[]): RouteObject[] =>
  routes.map(
    (route) => ({ ...route, errorElement: <ErrorPage />, ...(route.children && { children: safe(route.children) }) }) as RouteObject,
  );
const router = createBrowserRouter([{ element: <House />, errorElement: <ErrorPage />, children: safe(screens) }]);

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <RouterProvider router={router} />
    </StrictMode>,
  );
