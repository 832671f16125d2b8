/* Which page is at which address. Each comes when it is gone to, and no other one with it. */
import { Suspense, type ComponentType } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { Route, Switch, useLocation } from "wouter";
import { useKnown } from "./api/options";
import { Coming } from "./shared/Coming";
import { lazily } from "./shared/later";
import { Failed, NotHere } from "./shared/NotHere";

/** A page that only those see who are known; it needs the server's lists. */
const known = (load: () => Promise<ComponentType>) => lazily(load, { useReady: useKnown });

const SheetPage = known(async () => (await import("./sheet/SheetPage")).SheetPage);
const ReviewPage = known(async () => (await import("./review/ReviewPage")).ReviewPage);
const CarryPage = known(async () => (await import("./carry/CarryPage")).CarryPage);
const BenchPage = known(async () => (await import("./bench/BenchPage")).BenchPage);
const HistoryPage = known(async () => (await import("./history/HistoryPage")).HistoryPage);
const VersionsPage = known(async () => (await import("./versions/VersionsPage")).VersionsPage);
const BinPage = known(async () => (await import("./housekeeping/BinPage")).BinPage);
const ExportsPage = known(async () => (await import("./exports/ExportsPage")).ExportsPage);
const StoragePage = known(async () => (await import("./housekeeping/StoragePage")).StoragePage);
const SignInPage = lazily(async () => (await import("./people/SignInPage")).SignInPage);
const InvitationPage = lazily(async () => (await import("./people/InvitationPage")).InvitationPage);
const PeoplePage = known(async () => (await import("./people/PeoplePage")).PeoplePage);
const StatePage = known(async () => (await import("./people/StatePage")).StatePage);
const AccountPage = known(async () => (await import("./people/AccountPage")).AccountPage);
const NotesPage = known(async () => (await import("./notes/NotesPage")).NotesPage);
const ShownPage = lazily(async () => (await import("./shown/ShownPage")).ShownPage);

export function Pages() {
  const [pathname] = useLocation();
  return (
    <ErrorBoundary FallbackComponent={Failed} resetKeys={[pathname]}>
      <Suspense fallback={<Coming />}>
        <Switch>
          <Route path="/sign-in" component={SignInPage} />
          <Route path="/invitation/:token" component={InvitationPage} />
          <Route path="/shown/:token" component={ShownPage} />
          <Route>
            <KnownPages />
          </Route>
        </Switch>
      </Suspense>
    </ErrorBoundary>
  );
}

/** What only those see who are known. */
function KnownPages() {
  return (
    <Switch>
      <Route path="/" component={SheetPage} />
      <Route path="/sets/:setId" component={SheetPage} />
      <Route path="/sets/:setId/review" component={ReviewPage} />
      <Route path="/sets/:setId/carry" component={CarryPage} />
      <Route path="/pictures/:pictureId" component={BenchPage} />
      <Route path="/pictures/:pictureId/history" component={HistoryPage} />
      <Route path="/pictures/:pictureId/versions" component={VersionsPage} />
      <Route path="/pictures/:pictureId/notes" component={NotesPage} />
      <Route path="/bin" component={BinPage} />
      <Route path="/exports" component={ExportsPage} />
      <Route path="/storage" component={StoragePage} />
      <Route path="/people" component={PeoplePage} />
      <Route path="/state" component={StatePage} />
      <Route path="/account" component={AccountPage} />
      <Route>
        <NotHere />
      </Route>
    </Switch>
  );
}
