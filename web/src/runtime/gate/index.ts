import { lazy } from "react";

// The screens of the gate are loaded when somebody comes to one: most who open a page never do.
export const SignIn = lazy(async () => ({ default: (await import("./SignIn")).SignIn }));
export const SignInForm = lazy(async () => ({ default: (await import("./SignIn")).SignInForm }));
export const UseLink = lazy(async () => ({ default: (await import("./SignIn")).UseLink }));
export const SignUp = lazy(async () => ({ default: (await import("./SignUp")).SignUp }));
export const InvitationPage = lazy(async () => ({ default: (await import("./SignUp")).InvitationPage }));
export const Reset = lazy(async () => ({ default: (await import("./SignUp")).Reset }));
export const Profile = lazy(async () => ({ default: (await import("./Profile")).Profile }));
export const Unsubscribe = lazy(async () => ({ default: (await import("./Unsubscribe")).Unsubscribe }));
