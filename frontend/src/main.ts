import "./app.css";
import { mount } from "svelte";
import App from "./App.svelte";

const target = document.getElementById("application");
if (target === null) throw new Error("The page has no place for the application.");
mount(App, { target });
