/* The pages of people, which come together. */
export { AccountPage } from "./AccountPage";
export { InvitationPage } from "./InvitationPage";
export { PeoplePage } from "./PeoplePage";
export { SignInPage } from "./SignInPage";
