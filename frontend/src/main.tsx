import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-sans/400.css";
import "@fontsource/ibm-plex-sans/500.css";
import "@fontsource/ibm-plex-sans/600.css";

import { Box, ChakraProvider, Flex } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { askForOptions } from "./api/options";
import { isEntrance } from "./api/signedIn";
import { Pages } from "./Pages";
import { LongPress } from "./shared/LongPress";
import { StateBar } from "./shared/StateBar";
import { system } from "./theme/system";
import { applyScheme } from "./theme/useScheme";

const queries = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: true } },
});
applyScheme();
void navigator.serviceWorker?.register("/sw.js").catch(() => undefined);
// While the page itself is on its way.
if (!isEntrance()) askForOptions(queries);
const root = document.getElementById("root");
if (!root) throw new Error("index.html has no root element");

createRoot(root).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <Flex direction="column" height="100%">
          <StateBar />
          <LongPress />
          <Box flex="1" minHeight="0">
            <Pages />
          </Box>
        </Flex>
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
);
