import { type ComponentType, createContext, type ReactNode } from "react";
import type { Done, Form } from "../../place";
import type { Place } from "./steps";

/** What is done once a form was sent, where it stands by itself or in a dialog; it tells whether that is all. */
export const AfterForm = createContext<((got: Done) => boolean) | null>(null);

/** What stands around a question or a section where the builder arranges a form. */
export const Arranging = createContext<ComponentType<{ form: Form; place: Place; children: ReactNode }> | null>(null);
