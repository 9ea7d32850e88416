import "./app.css";
import { applyTheme, currentTheme } from "./parts/theme";
import { wordsAreHere } from "./words";

applyTheme(currentTheme());
// Lists and menus are made when their module is read: the words have to be there before.
void wordsAreHere().then(() => import("./start"));
