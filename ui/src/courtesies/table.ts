import type { CourtesyView } from "../api/client";

/** asks is the lane of what people ask for. */
export const asks = "When someone asks";

/** nameOf is what a command goes by: the first that it is asked by. */
export const nameOf = (c: CourtesyView) => c.rule.asks?.[0] ?? c.rule.asked?.words?.[0] ?? c.id;
