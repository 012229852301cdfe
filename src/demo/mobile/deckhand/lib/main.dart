import 'values.dart';

void main() {
  print('Boarding ${DeckhandValues.seatsPerFerry} seats by ${DeckhandValues.ferryApiUrl}');
}
