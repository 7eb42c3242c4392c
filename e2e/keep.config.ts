import base from './playwright.config';
export default { ...base, webServer: undefined };
