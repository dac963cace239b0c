/** What would be broken off if this tab were closed now: a scan, a copy, a hand-over. */
const underWay = new Set<string>();

/** Notes that work began or ended, by a name of its own. While there is any the browser asks before the tab is closed (HTML, beforeunload). */
export function noteWork(name: string, running: boolean): void {
  if (running) underWay.add(name);
  else underWay.delete(name);
}

const isWorking = (): boolean => underWay.size > 0;

/** Asks before a page with work under way is left. */
export function guardLeaving(page: Pick<Window, "addEventListener">): void {
  page.addEventListener("beforeunload", (event) => {
    if (isWorking()) event.preventDefault();
  });
}
