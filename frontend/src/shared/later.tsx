/* Pages and parts that come when they are needed, or before that while nothing else is to be
   done. */
import { lazy, Suspense, useEffect, type ComponentType } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { UNREACHABLE } from "../api/client";
import { Refused } from "../api/refused";
import { Coming } from "./Coming";
import { Failed } from "./NotHere";

type Load<P> = () => Promise<ComponentType<P>>;

/** A component whose code comes when it is first shown. */
export const lazily = <P extends object>(load: Load<P>) =>
  lazy(async () => {
    try {
      return { default: await load() };
    } catch {
      throw new Refused(UNREACHABLE, 0);
    }
  });

/** A part of a page like that: it says when it comes late, and it fails by itself. */
export function later<P extends object>(load: Load<P>) {
  const Part = lazily(load);
  const Later = (props: P) => (
    <ErrorBoundary FallbackComponent={Failed}>
      <Suspense fallback={<Coming />}>
        <Part {...props} />
      </Suspense>
    </ErrorBoundary>
  );
  return Object.assign(Later, { load });
}

/** Have parts ready, once the page is there, for whoever wants them next. */
export function useAhead(...parts: { load: () => Promise<unknown> }[]) {
  useEffect(() => {
    const all = () => parts.forEach(({ load }) => void load().catch(() => undefined));
    // Not every browser says when it is idle.
    if (!("requestIdleCallback" in window)) {
      const timer = setTimeout(all, 1000);
      return () => clearTimeout(timer);
    }
    const idle = window.requestIdleCallback(all, { timeout: 3000 });
    return () => window.cancelIdleCallback(idle);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a list that is the same in every call
  }, []);
}
