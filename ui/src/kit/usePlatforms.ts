import { useLive } from "../api/live";

/** usePlatforms lists the platforms that the house has a door on, each once. */
export function usePlatforms(): string[] {
  const doors = useLive((s) => s.doors);
  return [...new Set(doors?.map((d) => d.platform) ?? [])];
}
