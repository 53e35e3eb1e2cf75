import { createContext } from "react";

/** What is done with the thanks of a form instead of going on, where it stands by itself. */
export const AfterForm = createContext<((thanks: string) => void) | null>(null);
