import { type Live, useLive, whenTold } from "../api/live";

const platformsOf = (doors: Live["doors"] = []) => [...new Set(doors.map((d) => d.platform))];

/** usePlatforms lists the platforms that the house has a door on, each once; none until the house has told. */
export function usePlatforms(): string[] {
  return platformsOf(useLive((s) => s.doors));
}

/** firstPlatform is the first of them, waited for. */
export const firstPlatform = async () => platformsOf((await whenTold()).doors)[0];
