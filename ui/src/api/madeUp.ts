import { store } from "./store";

/** madeUp says that the Porch shows a made-up evening: nothing that is done there is done. */
export const madeUp = store(false);
