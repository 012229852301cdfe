// Writes the modules that are not in the repository.
import './kernel.mjs';
import './page.mjs';
