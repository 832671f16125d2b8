/* Pages and parts that come when they are needed, or before that while nothing else is to be
   done. Not by React's own `lazy`: what that shows in place of a part stays for 300 ms at least,
   also where the part is there at once. */
import { useEffect, useState, type ComponentType } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { UNREACHABLE } from "../api/client";
import { Refused } from "../api/refused";
import { Coming } from "./Coming";
import { Failed } from "./NotHere";

type Load<P> = () => Promise<ComponentType<P>>;

interface Ways<P> {
  /** What is shown until it is there. */
  meanwhile?: ComponentType<P>;
  /** A hook that says whether what it needs is there. */
  useReady?: () => boolean;
}

/** A component whose code comes when it is first shown. */
export function lazily<P extends object>(
  load: Load<P>,
  { meanwhile: Meanwhile, useReady = () => true }: Ways<P> = {},
) {
  let there: ComponentType<P> | undefined;
  const loaded = async () => (there = await load());
  function Lazily(props: P) {
    // A function is kept in a state by another one.
    const [Part, setPart] = useState(() => there);
    const [problem, setProblem] = useState<Error>();
    const ready = useReady();
    useEffect(() => {
      loaded().then(
        (part) => setPart(() => part),
        () => setProblem(new Refused(UNREACHABLE, 0)),
      );
    }, []);
    if (problem) throw problem;
    if (Part && ready) return <Part {...props} />;
    return Meanwhile ? <Meanwhile {...props} /> : <Coming />;
  }
  return Object.assign(Lazily, { load: loaded });
}

/** A part of a page like that, which fails by itself. */
export function later<P extends object>(load: Load<P>) {
  const Part = lazily(load);
  const Later = (props: P) => (
    <ErrorBoundary FallbackComponent={Failed}>
      <Part {...props} />
    </ErrorBoundary>
  );
  return Object.assign(Later, { load: Part.load });
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
