// Mocha's Spec reporter, closing on the plain line "N passed, N failed, N skipped"; a run without tests fails.
const { reporters } = require('mocha');
module.exports = class Plain extends reporters.Spec {
  epilogue() {
    super.epilogue();
    const s = this.stats;
    console.log(`${s.passes} passed, ${s.failures} failed, ${s.pending} skipped`);
    if (s.passes === 0) process.exitCode = 1;
  }
};
