/* Parts that come when they are needed, or before that while nothing else is to be done. */
import { lazy, Suspense, useEffect, type ComponentType } from "react";

/** A part whose code comes when it is first shown; nothing stands in its place until then. */
export function later<P extends object>(load: () => Promise<ComponentType<P>>) {
  const Part = lazy(async () => ({ default: await load() }));
  const Later = (props: P) => (
    <Suspense fallback={null}>
      <Part {...props} />
    </Suspense>
  );
  return Object.assign(Later, { load: () => void load().catch(() => undefined) });
}

/** Have parts ready, once the page is there, for whoever wants them next. */
export function useAhead(...parts: { load: () => void }[]) {
  useEffect(() => {
    const all = () => parts.forEach(({ load }) => load());
    if (!("requestIdleCallback" in window)) {
      const timer = setTimeout(all, 1000);
      return () => clearTimeout(timer);
    }
    const idle = window.requestIdleCallback(all, { timeout: 3000 });
    return () => window.cancelIdleCallback(idle);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a list that is the same in every call
  }, []);
}
