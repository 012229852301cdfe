const api = String.fromEnvironment('FERRY_API_URL');
void main() => print(api);
