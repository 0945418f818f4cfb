import Alpine from "@alpinejs/csp";
import { survey } from "./survey";
import { plan } from "./plan";
import { day } from "./day";
import { intake, printer, autosubmit, results, row, live, stopwatch } from "./small";

Alpine.data("survey", survey);
Alpine.data("plan", plan);
Alpine.data("day", day);
Alpine.data("printer", printer);
Alpine.data("autosubmit", autosubmit);
Alpine.data("results", results);
Alpine.data("row", row);
Alpine.data("intake", intake);
Alpine.data("live", live);
Alpine.data("stopwatch", stopwatch);
Alpine.start();
document.querySelector(".notch[aria-current]")?.scrollIntoView({ inline: "center", block: "nearest" });
document.documentElement.dataset.ready = "yes";
