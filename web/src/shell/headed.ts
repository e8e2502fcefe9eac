/** Where a person is headed: what a view is late to write into its address must not call them back to it, also while
 * the next view is still being fetched. */
import type { createBrowserRouter } from "react-router";

let router: ReturnType<typeof createBrowserRouter> | undefined;

export function follow(one: ReturnType<typeof createBrowserRouter>) {
  router = one;
}

/** The path that is shown next: of the navigation under way, or of one that waits since something was not saved, or else
 * of the view in sight. Another navigation would take the place of either. */
export function headed(): string {
  const waits = [...(router?.state.blockers.values() ?? [])].find((one) => one.location)?.location;
  return (router?.state.navigation.location ?? waits ?? router?.state.location ?? window.location).pathname;
}
