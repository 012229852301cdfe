const ferryApi = String.fromEnvironment('CREW_API_URL');
const showsTides = bool.fromEnvironment('CREW_TIDES', defaultValue: true);
