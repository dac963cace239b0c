import { useRouteError } from "react-router";
import { Lamp } from "./Lamp.tsx";

/** What stands in a screen's place when it breaks off: what happened, that nothing is lost, and the ways back. */
export function ErrorPage() {
  const cause = useRouteError();
  const words = cause instanceof Error ? cause.message : String(cause);
  return (
    <main className="mx-auto flex h-full max-w-2xl flex-col justify-center gap-4 p-10">
      <Lamp className="size-12" />
      <h1 className="text-2xl font-bold">This screen broke off.</h1>
      <p>What was found, chosen and answered is kept. Nothing was written to any storage that is being recovered.</p>
      <p className="rounded-box bg-base-200 p-3 font-mono text-[13px] wrap-anywhere" role="alert">
        {words}
      </p>
      <p className="flex gap-3">
        <button type="button" className="button button-main" onClick={() => location.reload()}>
          Open it again
        </button>
        <a className="button" href="/">
          To the bench
        </a>
      </p>
    </main>
  );
}
