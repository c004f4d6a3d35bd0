// Short names for what the other modules look up.
export const find = (selector) => document.querySelector(selector);
export const findAll = (selector) => [...document.querySelectorAll(selector)];
export const byId = (id) => document.getElementById(id);
export const trayInput = () => find("[data-tray-input]");
export const modalIsOpen = () => Boolean(find(".modal.show"));
