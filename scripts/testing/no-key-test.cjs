module.exports = { testRSAPKCS1V15_EncryptDecrypt: () => Promise.resolve() };
