/* Which page is at which address. Each comes when it is gone to, and no other one with it. */
import { lazy, Suspense, type ComponentType } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { Outlet, Route, Routes, useLocation } from "react-router";
import { useFileOptions, useOptions } from "./api/options";
import { useScheme } from "./theme/useScheme";
import { Failed, NotHere } from "./shared/NotHere";

/** A page of a file that is named as it is. */
const page = <N extends string>(name: N, load: () => Promise<Record<N, ComponentType>>) =>
  lazy(async () => ({ default: (await load())[name] }));

const SheetPage = page("SheetPage", () => import("./sheet/SheetPage"));
const ReviewPage = page("ReviewPage", () => import("./review/ReviewPage"));
const CarryPage = page("CarryPage", () => import("./carry/CarryPage"));
const BenchPage = page("BenchPage", () => import("./bench/BenchPage"));
const HistoryPage = page("HistoryPage", () => import("./history/HistoryPage"));
const VersionsPage = page("VersionsPage", () => import("./versions/VersionsPage"));
const BinPage = page("BinPage", () => import("./housekeeping/BinPage"));
const ExportsPage = page("ExportsPage", () => import("./exports/ExportsPage"));
const StoragePage = page("StoragePage", () => import("./housekeeping/StoragePage"));

export function Pages() {
  const { pathname } = useLocation();
  useScheme();
  return (
    <ErrorBoundary FallbackComponent={Failed} resetKeys={[pathname]}>
      <Suspense fallback={null}>
        <Routes>
          <Route element={<Prepared />}>
            <Route path="/" element={<SheetPage />} />
            <Route path="/sets/:setId" element={<SheetPage />} />
            <Route path="/sets/:setId/review" element={<ReviewPage />} />
            <Route path="/sets/:setId/carry" element={<CarryPage />} />
            <Route path="/pictures/:pictureId" element={<BenchPage />} />
            <Route path="/pictures/:pictureId/history" element={<HistoryPage />} />
            <Route path="/pictures/:pictureId/versions" element={<VersionsPage />} />
            <Route path="/bin" element={<BinPage />} />
            <Route path="/exports" element={<ExportsPage />} />
            <Route path="/storage" element={<StoragePage />} />
            <Route path="*" element={<NotHere />} />
          </Route>
        </Routes>
      </Suspense>
    </ErrorBoundary>
  );
}

/** No page is shown before the server's lists are there, so that none is waited for later. */
function Prepared() {
  useOptions();
  useFileOptions();
  return <Outlet />;
}
