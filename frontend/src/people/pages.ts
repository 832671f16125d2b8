/* The pages of people, which come together. */
export { AccountPage } from "./AccountPage";
export { InvitationPage } from "./InvitationPage";
export { PeoplePage } from "./PeoplePage";
export { StatePage } from "./StatePage";
export { SignInPage } from "./SignInPage";
