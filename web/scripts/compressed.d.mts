import type { Plugin } from "vite";

export declare const compressed: () => Plugin;
