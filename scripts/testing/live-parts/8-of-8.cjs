require('../together.cjs');
