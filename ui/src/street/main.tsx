import "@fontsource-variable/figtree";
import "@fontsource-variable/bricolage-grotesque";
import "../styles.css";
import { createRoot } from "react-dom/client";
import { Street } from "./Street";

createRoot(document.getElementById("root")!).render(<Street />);
