/* Tries again, until the server is there: then the page that was wanted. */
const LOOK_MS = 2000;

async function look() {
  try {
    const answer = await fetch("/api/health", { cache: "no-store" });
    if (answer.status < 500) window.location.reload();
  } catch {
    // It is still away.
  }
}

setInterval(() => void look(), LOOK_MS);
document.querySelector("button").addEventListener("click", () => void look());
