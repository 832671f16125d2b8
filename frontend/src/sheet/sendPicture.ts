/* One file to the server, with its progress and its outcome. */
import { t } from "../shared/words";
import { UNREACHABLE, type Added, type Problem } from "../api/client";
import { problemOf } from "../api/refused";
import { named } from "../api/signedIn";
import type { Incoming, Waiting } from "./useUploads";

/* fetch reports no progress while sending, so this one call uses XMLHttpRequest. Gives whether the
   server answered. */
export function send(
  { setId, file, asDamaged, page }: Waiting,
  report: (change: Partial<Incoming>) => void,
): Promise<boolean> {
  return new Promise((done) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/sets/${setId}/pictures`);
    for (const [name, value] of Object.entries(named())) request.setRequestHeader(name, value);
    request.upload.onprogress = (event) => {
      const share = event.total ? event.loaded / event.total : 0;
      report({ share, outcome: share < 1 ? "sending" : "reading" });
    };
    request.onload = () => {
      const body: unknown = safeJson(request.responseText);
      if (request.status === 201) report({ outcome: "added", share: 1 });
      else if (request.status === 200)
        report({
          outcome: "known",
          share: 1,
          problem: t("already here as {name}", { name: (body as Added).picture.name }),
        });
      else
        report({
          outcome: "refused",
          problem: problemOf(body),
          asDamaged: (body as Problem | null)?.as_damaged,
          pages: (body as Problem | null)?.pages,
        });
      done(true);
    };
    request.onerror = () => {
      report({ outcome: "refused", problem: UNREACHABLE });
      done(false);
    };
    const form = new FormData();
    form.append("file", file);
    if (asDamaged) form.append("as_damaged", "true");
    if (page) form.append("page", String(page));
    request.send(form);
  });
}

function safeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
