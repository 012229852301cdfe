// The app asks for fares, and shows them to the crew.
fetch(`${import.meta.env.FERRY_API_URL}/fares`).then((answer) => show(answer));
