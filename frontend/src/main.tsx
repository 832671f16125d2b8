import "@fontsource/ibm-plex-mono/latin-400.css";
import "@fontsource/ibm-plex-mono/latin-500.css";
import "@fontsource/ibm-plex-sans/latin-400.css";
import "@fontsource/ibm-plex-sans/latin-500.css";
import "@fontsource/ibm-plex-sans/latin-600.css";

import { Box, ChakraProvider, Flex } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Outlet, RouterProvider } from "react-router";
import { useFileOptions, useOptions } from "./api/options";
import { BenchPage } from "./bench/BenchPage";
import { CarryPage } from "./carry/CarryPage";
import { HistoryPage } from "./history/HistoryPage";
import { BinPage } from "./housekeeping/BinPage";
import { ExportsPage } from "./exports/ExportsPage";
import { StoragePage } from "./housekeeping/StoragePage";
import { ReviewPage } from "./review/ReviewPage";
import { SheetPage } from "./sheet/SheetPage";
import { NotHere, Failed } from "./shared/NotHere";
import { StateBar } from "./shared/StateBar";
import { system } from "./theme/system";
import { VersionsPage } from "./versions/VersionsPage";

/** No page is shown before the server's lists are there, so that none is waited for later. */
function Prepared() {
  useOptions();
  useFileOptions();
  return <Outlet />;
}

const router = createBrowserRouter([
  {
    element: <Prepared />,
    errorElement: <Failed />,
    children: [
      { path: "/", element: <SheetPage /> },
      { path: "/sets/:setId", element: <SheetPage /> },
      { path: "/sets/:setId/review", element: <ReviewPage /> },
      { path: "/sets/:setId/carry", element: <CarryPage /> },
      { path: "/pictures/:pictureId", element: <BenchPage /> },
      { path: "/pictures/:pictureId/history", element: <HistoryPage /> },
      { path: "/pictures/:pictureId/versions", element: <VersionsPage /> },
      { path: "/bin", element: <BinPage /> },
      { path: "/exports", element: <ExportsPage /> },
      { path: "/storage", element: <StoragePage /> },
      { path: "*", element: <NotHere /> },
    ],
  },
]);
const queries = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: true } },
});
const root = document.getElementById("root");
if (!root) throw new Error("index.html has no root element");

createRoot(root).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <Flex direction="column" height="100%">
          <StateBar />
          <Box flex="1" minHeight="0">
            <Suspense fallback={null}>
              <RouterProvider router={router} />
            </Suspense>
          </Box>
        </Flex>
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
);
