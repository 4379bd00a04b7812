import type { Role } from "../api/client";

/** What each role may do, in words. */
export const ROLES: readonly (readonly [Role, string, string])[] = [
  ["viewer", "viewer", "looks at everything and asks any question"],
  ["installer", "installer", "changes jobs, bench, parts and readings"],
  ["owner", "owner", "also people, settings and the whole workshop's data"],
];
